// The summing tree in one step: buses for given paths, as many tiers as are wanted, returns inside their families, a common
// effects bus, and a chain before the mix bus. What is there already under its name is used.
import { alone } from '../commands/alone.ts';
import type { Command } from '../commands/index.ts';
import { ok, refuse, type Result } from '../result.ts';
import { MIX } from '../session/create.ts';
import type { Session } from '../session/entities.ts';
import { inOrder } from '../session/select.ts';
import type { Family, Rule } from './ruleBook.ts';
import { plain } from './words.ts';

export type TreeOptions = {
  /** 1 families only, 2 sections and families, 3 stems, sections and families with a chain before the mix bus. */
  readonly tiers: 1 | 2 | 3;
  readonly naming: 'upper' | 'mark' | 'typed';
  /** With naming by mark: stands in front, once a tier from the families outwards. */
  readonly mark: string;
  /** Name of each family's own return with {bus} in it; '' makes none. */
  readonly contained: string;
  /** Name of the bus for returns that all share; '' makes none. */
  readonly common: string;
  /** Buses between the stems and the mix bus, in the order of the signal, commas between; only with three tiers. */
  readonly chain: string;
  /** Of so many members up a bus is made; what has fewer stands one level up. 1 makes every one. */
  readonly least: number;
};

export const treeDefaults: TreeOptions = { tiers: 2, naming: 'upper', mark: '›', contained: '', common: '', chain: 'SUM', least: 1 };

/** A bus's name; `tier` is 1 for the innermost. */
export function busName(name: string, tier: number, { naming, mark }: Pick<TreeOptions, 'naming' | 'mark'>): string {
  if (naming === 'typed') return name;
  return naming === 'upper' ? name.toLocaleUpperCase() : `${mark.repeat(tier)} ${name}`.trim();
}

type Leaf = {
  readonly id: string;
  /** Whether a person chose its path. */
  readonly byHand: boolean;
  readonly path: readonly string[] | null;
  readonly rule: Rule | null;
};

const sameName = (name: string) =>
  plain(name)
    .replace(/[^\p{L}\d]+/gu, ' ')
    .trim();

/** Paths without stations that fewer than `least` members would go into, deepest first; a bus that is there already stays. */
function worthwhile(leaves: readonly Leaf[], least: number, present: (name: string) => boolean): (readonly string[] | null)[] {
  let paths = leaves.map(({ path }) => path);
  for (;;) {
    const members = new Map<string, { path: readonly string[]; inside: Set<string> }>();
    const into = (path: readonly string[], member: string) => {
      const key = path.join('\n');
      const found = members.get(key) ?? { path, inside: new Set<string>() };
      members.set(key, found);
      found.inside.add(member);
    };
    for (const [i, path] of paths.entries()) {
      if (!path?.length) continue;
      into(path, `leaf ${i}`);
      for (let depth = path.length - 1; depth > 0; depth--) into(path.slice(0, depth), `bus ${path[depth]}`);
    }
    const idle = [...members.values()]
      .filter(({ path, inside }) => inside.size < least && !present(path.at(-1)!))
      .sort((a, b) => b.path.length - a.path.length)[0];
    if (!idle) return paths;
    const depth = idle.path.length - 1;
    paths = paths.map((path) => (path && idle.path.every((name, i) => path[i] === name) ? path.toSpliced(depth, 1) : path));
  }
}

/** The commands that make the buses on the leaves' paths, route the leaves into them, and make the returns asked for. */
export function plantTree(
  session: Session,
  leaves: readonly Leaf[],
  families: readonly Family[],
  options: TreeOptions,
  newId: () => string
): Command[] {
  const commands: Command[] = [];
  const known = new Map<string, string>();
  const returns = new Map<string, string>();
  for (const { id, kind, name } of inOrder(session)) {
    if (kind === 'bus') known.set(sameName(name), id);
    if (kind === 'return') returns.set(sameName(name), id);
  }
  const colourOf = (name: string) =>
    families.find((family) => [family.name, family.section, family.stem].some((own) => own && sameName(own) === sameName(name)))?.colour;
  const bus = (name: string, outputId: string) => {
    const present = known.get(sameName(name));
    if (present) return present;
    const id = newId();
    commands.push({ do: 'buses.add', id, name, colour: colourOf(name) ?? 0, members: [], outputId });
    known.set(sameName(name), id);
    return id;
  };
  const chain = options.tiers === 3 ? listed(options.chain) : [];
  const top = chain.reduceRight((to, name) => bus(busName(name, 1, { ...options, mark: '' }), to), MIX);

  // In the order of the families, so that buses are born in the order in which they are laid out.
  const places = new Map(families.map(({ name }, i) => [name, i]));
  const ordered = leaves.toSorted((a, b) => (places.get(a.rule?.family ?? '') ?? -1) - (places.get(b.rule?.family ?? '') ?? -1));
  const chosen = new Set(leaves.filter(({ byHand }) => byHand).map(({ id }) => id));
  const members = new Map<string, string[]>();
  const paths = worthwhile(ordered, options.least, (name) => known.has(sameName(name)));
  for (const [i, { id }] of ordered.entries()) {
    const path = paths[i];
    if (!path?.length) continue;
    const home = path.reduce((to, name) => bus(name, to), top);
    members.set(home, [...(members.get(home) ?? []), id]);
  }
  for (const [to, ids] of members) {
    const moved = ids.filter((id) => session.channel.get(id)?.outputId !== to);
    for (const auto of [true, false]) {
      const own = moved.filter((id) => chosen.has(id) !== auto);
      if (own.length) commands.push({ do: 'channels.route', ids: own, to, auto });
    }
  }
  const contained = options.contained.trim();
  if (contained)
    for (const [home, ids] of members) {
      const bare = [...known].find(([, id]) => id === home)![0];
      const own = commands.flatMap((command) => (command.do === 'buses.add' && command.id === home ? [command.name!] : []))[0];
      const name = contained.replaceAll('{bus}', own ?? session.channel.get(home)?.name ?? bare);
      if (returns.has(sameName(name))) continue;
      const id = newId();
      commands.push({ do: 'returns.add', id, name, outputId: home, effect: 'reverb', sources: ids });
      returns.set(sameName(name), id);
    }
  const common = options.common.trim();
  const effects = common ? bus(busName(common, 1, options), top) : top;
  const wanted = new Map<string, string[]>();
  for (const { id, rule } of leaves) for (const name of listed(rule?.sends ?? '')) wanted.set(name, [...(wanted.get(name) ?? []), id]);
  for (const [name, sources] of wanted) {
    const present = returns.get(sameName(name));
    if (!present) {
      const id = newId();
      commands.push({ do: 'returns.add', id, name, outputId: effects, effect: 'reverb', sources });
      returns.set(sameName(name), id);
      continue;
    }
    const fresh = sources.filter((source) => !session.send.has(`${source}\n${present}`));
    if (fresh.length) commands.push({ do: 'sends.set', sends: fresh.map((source) => ({ source, target: present })) });
  }
  // Returns that all share and that stand at the mix bus move to the common effects bus.
  if (common) {
    const shared = [...session.channel.values()].filter(({ kind, outputId }) => kind === 'return' && outputId === MIX).map(({ id }) => id);
    if (shared.length) commands.push({ do: 'channels.route', ids: shared, to: effects, auto: true });
  }
  return commands;
}

const listed = (text: string) =>
  text
    .split(',')
    .map((name) => name.trim())
    .filter(Boolean);

/** Buses from a pasted list: a line each, deeper lines (spaces or tabs) inside the one above. Kept where the name is there already. */
export function busesFromList(
  session: Session,
  text: string,
  naming: Pick<TreeOptions, 'naming' | 'mark'>,
  newId: () => string
): Result<Command[]> {
  const lines = text
    .split(/\r?\n/)
    .map((line, i) => ({ row: i + 1, depth: line.replaceAll('\t', '    ').search(/\S/), name: line.trim() }))
    .filter(({ name }) => name);
  if (lines.length === 0) return refuse('bad-arguments', 'Type or paste at least one name, a line each.');
  const long = lines.find(({ name }) => name.length > 120);
  if (long) return refuse('bad-arguments', `The name in line ${long.row} is longer than 120 letters.`);
  const known = new Map(
    inOrder(session).flatMap(({ id, kind, name }): [string, string][] => (kind === 'bus' ? [[sameName(name), id]] : []))
  );
  const open: { depth: number; id: string }[] = [];
  const commands: Command[] = [];
  const heights = lines.map(({ depth }, i) => {
    const inside = lines.slice(i + 1);
    const end = inside.findIndex((line) => line.depth <= depth);
    return new Set((end < 0 ? inside : inside.slice(0, end)).map((line) => line.depth)).size + 1;
  });
  const fresh = new Set<string>();
  for (const [i, { row, depth, name }] of lines.entries()) {
    while (open.length && open.at(-1)!.depth >= depth) open.pop();
    const own = busName(name, heights[i], naming);
    if (fresh.has(sameName(own))) return refuse('bad-arguments', `Line ${row}: ${name} stands in the list twice.`);
    let id = known.get(sameName(own));
    if (!id) {
      id = newId();
      commands.push({ do: 'buses.add', id, name: own, members: [], outputId: open.at(-1)?.id ?? MIX });
    }
    fresh.add(sameName(own));
    open.push({ depth, id });
  }
  if (commands.length === 0) return ok([]);
  return ok([{ do: 'batch.name', text: `New buses: ${commands.length}` }, ...alone(commands)]);
}
