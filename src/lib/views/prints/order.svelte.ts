// What the Prints view is about to print: chosen once, kept while the session is open.
import type { FileOrder, Format, Range, Tail } from '$core/prints/order';
import { DEFAULT_NAMES } from '$core/prints/order';

/** Kinds that are chosen as a whole; versions and single channels are chosen one by one. */
export const WHOLE = ['stem', 'input', 'mix', 'raw', 'dry', 'chained'] as const;
export type Whole = (typeof WHOLE)[number];

export type Choice = ReturnType<typeof createChoice>;

const choices = new WeakMap<object, Choice>();
/** The choice of an open session, as it was left. */
export function choiceOf(store: { readonly soundness: { readonly stems: readonly unknown[] } }): Choice {
  const known = choices.get(store) ?? createChoice(store.soundness.stems.length > 0 ? ['stem', 'input', 'mix'] : ['mix']);
  choices.set(store, known);
  return known;
}

function createChoice(first: readonly Whole[]) {
  let kinds = $state.raw<ReadonlySet<Whole>>(new Set(first));
  /** Versions that are not printed. */
  let left = $state.raw<ReadonlySet<string>>(new Set<string>());
  let channels = $state.raw<readonly FileOrder[]>([]);
  const turned = <T>(set: ReadonlySet<T>, item: T): ReadonlySet<T> => {
    const next = new Set(set);
    if (!next.delete(item)) next.add(item);
    return next;
  };
  const how = $state({
    format: 'wav24' as Format,
    rate: null as number | null,
    ranges: [] as readonly Range[],
    tail: 'decay' as Tail,
    preRoll: null as number | null,
    dither: null as boolean | null,
    names: DEFAULT_NAMES
  });
  return {
    get kinds() {
      return kinds;
    },
    turn: (kind: Whole) => (kinds = turned(kinds, kind)),
    prints: (versionId: string) => !left.has(versionId),
    turnVersion: (versionId: string) => (left = turned(left, versionId)),
    get channels() {
      return channels;
    },
    add: (file: FileOrder) => (channels = [...channels.filter(({ kind, id }) => kind !== file.kind || id !== file.id), file]),
    drop: (file: FileOrder) => (channels = channels.filter((each) => each !== file)),
    /** Format, rate, ranges, tail, pre-roll, dither and names. */
    how
  };
}

/** The order as it is sent; `versions` are those of the session, `stems` whether there are any. */
export function orderOf(choice: Choice, versions: readonly { readonly id: string }[]) {
  const { kinds, channels, how } = choice;
  const files: FileOrder[] = [
    ...WHOLE.filter((kind) => kind !== 'chained' && kinds.has(kind)).map((kind) => ({ kind })),
    ...versions.filter(({ id }) => choice.prints(id)).map(({ id }) => ({ kind: 'version' as const, id })),
    ...(kinds.has('chained') ? [{ kind: 'chained' as const }] : []),
    ...channels.map(({ kind, id }) => ({ kind, id }))
  ];
  return { ...$state.snapshot(how), files, preRoll: how.ranges.length ? how.preRoll : null };
}
