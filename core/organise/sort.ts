// Sorting by rule: what every track would become, the buses that would stand, and the commands that do it. Nothing is changed
// here; a person looks at it first, corrects it, and applies it as one batch.
import { alone } from '../commands/alone.ts';
import type { Command } from '../commands/index.ts';
import { MIX } from '../session/create.ts';
import type { Channel, Session } from '../session/entities.ts';
import { setByHand, type HandField, type Role } from '../session/roles.ts';
import { inOrder } from '../session/select.ts';
import { cleaned } from '../text.ts';
import { matching } from './roleOf.ts';
import { pathOf, type Rule, type RuleBook } from './ruleBook.ts';
import { namePartsOf, plain } from './words.ts';
import { spelled } from './defaultRules.ts';
import { busName, plantTree, type TreeOptions } from './tree.ts';

/** What a person says of one track in the preview. */
export type Correction = {
  /** Another rule of the book, or '' for none. */
  readonly rule?: string;
  readonly name?: string;
};

export type SortedTrack = {
  readonly id: string;
  readonly file: string;
  readonly rule: Rule | null;
  /** Rules further down that would have held too, with another outcome. */
  readonly fights: readonly Rule[];
  /** What a person said of it in the preview: as good as set by hand. */
  readonly corrected: { readonly rule: boolean; readonly name: boolean };
  readonly name: string;
  readonly role: string;
  readonly colour: number;
  readonly pan: number;
  /** Buses from the outermost in, as they will be named; null is no output. */
  readonly path: readonly string[] | null;
  /** What a person has set and is therefore left as it is. */
  readonly kept: readonly HandField[];
};

export type SortPlan = {
  readonly tracks: readonly SortedTrack[];
  /** How many tracks each rule took, by its id. */
  readonly taken: ReadonlyMap<string, number>;
  readonly commands: Command[];
};

export type SortOptions = TreeOptions & { readonly rename: boolean; readonly reorder: boolean };

/** What sorting the tracks `ids` by a book comes to. `newId` makes ids for what is new. */
export function sortPlan(
  session: Session,
  {
    book,
    options,
    corrections = {},
    ids,
    newId
  }: {
    readonly book: RuleBook;
    readonly options: SortOptions;
    readonly corrections?: Readonly<Record<string, Correction>>;
    readonly ids?: readonly string[];
    readonly newId: () => string;
  }
): SortPlan {
  const wanted = ids && new Set(ids);
  const channels = inOrder(session).filter(({ kind, id }) => kind === 'track' && (!wanted || wanted.has(id)));
  const match = matching(book.rules);
  const users = new Map<string, Set<string>>();
  for (const { mediaId, channelId } of session.clip.values()) users.set(mediaId, (users.get(mediaId) ?? new Set()).add(channelId));
  const clips = new Map([...session.clip.values()].map((clip) => [clip.channelId, clip]));
  /** A recording that several tracks play has the name of one of their files only: there the track's own says more. */
  const nameOfFile = ({ id, name }: Channel) => {
    const mediaId = clips.get(id)?.mediaId;
    return mediaId === undefined || users.get(mediaId)!.size > 1 ? name : (session.media.get(mediaId)?.name ?? name);
  };
  const seen = new Map<string, number>();
  const tracks = channels.map((channel): SortedTrack => {
    const file = nameOfFile(channel);
    const correction = corrections[channel.id];
    const found = match(file);
    // A name given by hand says more than the file's.
    const named = found.rule === null && setByHand(channel, 'name') ? match(channel.name) : found;
    const rule = correction?.rule === undefined ? named.rule : (book.rules.find(({ id }) => id === correction.rule) ?? null);
    const outcome = (one: Rule) => `${one.role} ${one.family} ${one.bus}`;
    const fights = rule && correction?.rule === undefined ? named.others.filter((other) => outcome(other) !== outcome(rule)) : [];
    return {
      ...trackBy(session, channel, file, rule, book, options),
      fights,
      corrected: { rule: correction?.rule !== undefined, name: Boolean(correction?.name) },
      ...(correction?.name ? { name: correction.name } : {})
    };
  });
  // Of equal names every one gets a number.
  const counts = new Map<string, number>();
  for (const { name } of tracks) counts.set(name, (counts.get(name) ?? 0) + 1);
  const numbered = tracks.map((track) => {
    if (counts.get(track.name) === 1 || track.kept.includes('name') || track.rule === null) return track;
    const n = (seen.get(track.name) ?? 0) + 1;
    seen.set(track.name, n);
    return { ...track, name: `${track.name} ${n}` };
  });
  const taken = new Map<string, number>();
  for (const { rule } of numbered) if (rule) taken.set(rule.id, (taken.get(rule.id) ?? 0) + 1);
  return { tracks: numbered, taken, commands: commandsFor(session, numbered, book, options, newId) };
}

function trackBy(session: Session, channel: Channel, file: string, rule: Rule | null, book: RuleBook, options: SortOptions) {
  const base = { id: channel.id, file, rule, name: channel.name, role: channel.role, colour: channel.colour, pan: channel.pan };
  if (!rule) return { ...base, path: currentPath(session, channel), kept: [] };
  const family = book.families.find(({ name }) => name === rule.family);
  const { path, stem } = pathOf(rule, book.families);
  const { side } = namePartsOf(file);
  const kept: HandField[] = [];
  const free = <T>(field: HandField, present: T, next: T): T => {
    if (Object.is(present, next) || !setByHand(channel, field)) return next;
    kept.push(field);
    return present;
  };
  return {
    ...base,
    name: free('name', channel.name, options.rename ? nameBy(rule, file) || channel.name : channel.name),
    role: free('role', channel.role, rule.role || channel.role),
    colour: free('colour', channel.colour, rule.colour ?? family?.colour ?? channel.colour),
    pan: free('pan', channel.pan, side && rule.pan > 0 && channel.width === 1 ? (side === 'L' ? -rule.pan : rule.pan) : channel.pan),
    path: free(
      'output',
      currentPath(session, channel),
      path === null ? null : path.length ? tiered(path, stem, options) : currentPath(session, channel)
    ),
    kept
  };
}

/** The name that a rule's pattern makes of a file's. */
export function nameBy(rule: Pick<Rule, 'name'>, file: string): string {
  const { side, tokens, clean } = namePartsOf(file);
  // One rule of case: words as the file has them, what was abbreviated in small letters, the first letter of all a capital.
  const words = clean.split(' ').map((word) => spelled(plain(word))?.toLocaleLowerCase() ?? word);
  const tidy = words.join(' ');
  const number = clean.match(/\d+/)?.[0] ?? tokens.find((token) => /^[1-9]\d?$/.test(token)) ?? '';
  const name = (rule.name || '{clean}')
    .replaceAll('{clean}', tidy)
    .replaceAll('{n}', number)
    .replaceAll('{side}', side ?? '')
    .replaceAll('{file}', file)
    .replace(/\s+/g, ' ');
  const kept = cleaned(name, 120);
  return kept && kept[0].toLocaleUpperCase() + kept.slice(1);
}

/** A path with as many tiers as are wanted, its buses named as is wanted. */
function tiered(path: readonly string[], stem: string, options: TreeOptions): string[] {
  const tiers = options.tiers === 1 ? path.slice(-1) : options.tiers === 2 ? path : [...new Set([stem || path[0], ...path])];
  return tiers.map((name, i) => busName(name, tiers.length - i, options));
}

/** Where a channel goes now, from the outermost bus in; null for nowhere or an output of its own. */
function currentPath(session: Session, channel: Channel): string[] | null {
  const path: string[] = [];
  let at = channel.outputId;
  if (at === null) return null;
  while (at !== null && at !== MIX) {
    const bus: Channel = session.channel.get(at)!;
    path.unshift(bus.name);
    at = bus.outputId;
  }
  return path;
}

function commandsFor(
  session: Session,
  tracks: readonly SortedTrack[],
  book: RuleBook,
  options: SortOptions,
  newId: () => string
): Command[] {
  const at = (id: string) => session.channel.get(id)!;
  const changed = (field: 'name' | 'role' | 'colour' | 'pan') =>
    tracks.filter((track) => track.rule && track[field] !== at(track.id)[field]);
  const commands: Command[] = [];
  const names = tracks.filter((track) => (track.rule || track.corrected.name) && track.name !== at(track.id).name);
  // What a person corrected is theirs: it is marked, so that sorting again leaves it.
  for (const auto of [true, false]) {
    const renamed = names.filter(({ corrected }) => corrected.name !== auto).map(({ id, name }) => ({ id, name }));
    if (renamed.length) commands.push({ do: 'channels.rename', names: renamed, auto });
    const by = (list: readonly SortedTrack[]) => list.filter(({ corrected }) => corrected.rule !== auto);
    for (const [role, ids] of grouped(by(changed('role')), ({ role }) => role))
      commands.push({ do: 'roles.set', ids, role: role as Role, auto });
    for (const [colour, ids] of grouped(by(changed('colour')), ({ colour }) => colour))
      commands.push({ do: 'channels.colour', ids, colour, auto });
  }
  const pans = changed('pan');
  if (pans.length) commands.push({ do: 'pans.set', pans: pans.map(({ id, pan }) => ({ id, pan })), auto: true });
  const branches = tracks.flatMap((track) => (track.rule && !track.kept.includes('output') ? [track] : []));
  const nowhere = branches.filter(({ path, id }) => path === null && at(id).outputId !== null).map(({ id }) => id);
  if (nowhere.length) commands.push({ do: 'channels.route', ids: nowhere, to: null, auto: true });
  const leaves = branches.map((track) => ({ ...track, byHand: track.corrected.rule }));
  commands.push(...plantTree(session, leaves, book.families, options, newId));
  if (options.reorder) commands.push(...orderBy(session, tracks, book));
  if (commands.length === 0) return [];
  const count = tracks.filter(({ rule }) => rule).length;
  return [{ do: 'batch.name', text: `Sort ${count} track${count === 1 ? '' : 's'} by rule` }, ...alone(commands)];
}

/** Families side by side, in the order of the book; what no rule took stays first. */
function orderBy(session: Session, tracks: readonly SortedTrack[], book: RuleBook): Command[] {
  const places = new Map(book.families.map(({ name }, i) => [name, i]));
  const placeOf = ({ rule }: SortedTrack) => (rule ? (places.get(rule.family) ?? -0.5) : -1);
  const next = tracks.toSorted((a, b) => placeOf(a) - placeOf(b)).map(({ id }) => id);
  const same = inOrder(session).filter(({ id }) => next.includes(id));
  return same.every(({ id }, i) => id === next[i]) ? [] : [{ do: 'channels.order', ids: next }];
}

function grouped<K>(tracks: readonly SortedTrack[], key: (track: SortedTrack) => K): Map<K, string[]> {
  const groups = new Map<K, string[]>();
  for (const track of tracks) groups.set(key(track), [...(groups.get(key(track)) ?? []), track.id]);
  return groups;
}
