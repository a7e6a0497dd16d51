// Parameter descriptions of the processors: names, units, ranges and birth values, read by commands, engine and page.
import type { InsertType } from '../session/entities.ts';
import { eqSpecs } from './eq.ts';
import { reverbSpecs } from './reverb.ts';

export type ParamSpec = {
  readonly id: string;
  readonly label: string;
  readonly unit: 'dB' | 'Hz' | 'ms' | 's' | '%' | '' | 'dB/oct';
  readonly min: number;
  readonly max: number;
  readonly birth: number;
  /** For choices: what each whole number stands for. */
  readonly choices?: readonly string[];
};

const tables: Record<InsertType, ReadonlyMap<string, ParamSpec>> = {
  eq: new Map(eqSpecs.map((spec) => [spec.id, spec])),
  reverb: new Map(reverbSpecs.map((spec) => [spec.id, spec]))
};

export const specsOf = (type: InsertType): ReadonlyMap<string, ParamSpec> => tables[type];

/** Every parameter's value: what is set, else its value at birth. */
export const valuesOf = (type: InsertType, params: Readonly<Record<string, number>>): Record<string, number> =>
  Object.fromEntries([...tables[type].values()].map((spec) => [spec.id, params[spec.id] ?? spec.birth]));
