// Options of sorting as they come from outside: a request, a file.
import * as yup from 'yup';
import { trimmed } from '../commands/define.ts';
import { ok, refuse, type Result } from '../result.ts';
import type { Correction, SortOptions } from './sort.ts';
import { treeDefaults } from './tree.ts';

export const sortDefaults: SortOptions = { ...treeDefaults, rename: true, reorder: true };

const short = (fallback: string) => yup.string().max(200).default(fallback);
const schema = yup.object({
  options: yup
    .object({
      tiers: yup
        .number()
        .oneOf([1, 2, 3] as const)
        .default(sortDefaults.tiers),
      naming: yup
        .string()
        .oneOf(['upper', 'mark', 'typed'] as const)
        .default(sortDefaults.naming),
      mark: yup.string().max(4).default(sortDefaults.mark),
      contained: short(''),
      common: short(''),
      chain: short(sortDefaults.chain),
      least: yup.number().integer().min(1).max(99).default(sortDefaults.least),
      rename: yup.boolean().default(true),
      reorder: yup.boolean().default(true)
    })
    .default(sortDefaults),
  corrections: yup.mixed<Readonly<Record<string, Correction>>>(
    (value): value is Readonly<Record<string, Correction>> =>
      typeof value === 'object' && value !== null && Object.values(value).every((one) => correction.isValidSync(one))
  ),
  ids: yup.array().of(yup.string().required()).max(20_000)
});
const correction = yup.object({ rule: yup.string().max(80), name: trimmed(120).min(1) });

export function readSortOptions(
  given: unknown
): Result<{ options: SortOptions; corrections?: Readonly<Record<string, Correction>>; ids?: string[] }> {
  try {
    const { options, corrections, ids } = schema.validateSync(given, { stripUnknown: true });
    return ok({ options: options as SortOptions, ...(corrections ? { corrections } : {}), ...(ids ? { ids } : {}) });
  } catch (error) {
    if (error instanceof yup.ValidationError) return refuse('bad-arguments', `${error.message}.`, { path: error.path });
    throw error;
  }
}
