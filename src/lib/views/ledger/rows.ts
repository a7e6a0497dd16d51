// The Ledger's rows: the tree flattened, folded branches left out, with the contour bands that each row shows.
import type { Divider, Session } from '$core/session/entities';
import type { Row, Tree } from '$core/routing/graph';

export type Band = { readonly id: string; readonly colour: number; readonly mix: boolean; readonly first: boolean; readonly last: boolean };
export type Line = {
  readonly id: string;
  readonly depth: number;
  readonly bands: readonly Band[];
  /** How many rows stand directly below; 0 for a leaf. */
  readonly members: number;
  readonly folded: boolean;
};
export type Section = {
  readonly key: 'chain' | 'mix' | 'elsewhere' | 'cues' | 'nowhere';
  readonly caption: string;
  readonly lines: readonly Line[];
};

export function sectionsOf(tree: Tree, folded: ReadonlySet<string>): Section[] {
  const count = (rows: readonly Row[]) => `${rows.length} channel${rows.length === 1 ? '' : 's'}`;
  const sections: Section[] = [
    { key: 'chain', caption: '', lines: headOf(linesOf(tree.chain, folded)) },
    { key: 'mix', caption: '', lines: below(linesOf(tree.mix, folded), tree.chain.length > 0) },
    { key: 'elsewhere', caption: `Other outputs · ${count(tree.elsewhere)}`, lines: linesOf(tree.elsewhere, folded) },
    { key: 'cues', caption: `Cues · ${tree.cues.length}`, lines: linesOf(tree.cues, folded) },
    { key: 'nowhere', caption: `Going nowhere · ${count(tree.nowhere)}`, lines: linesOf(tree.nowhere, folded) }
  ];
  return sections.filter(({ lines }) => lines.length > 0);
}

/** The mix chain's later stages in one band with the mix bus: the last stage on top, where the band begins. */
const headOf = (lines: readonly Line[]): Line[] =>
  lines.map((line, i) => ({
    ...line,
    bands: line.bands.map((band, at) => (at === 0 ? { ...band, mix: true, first: i === 0, last: false } : band))
  }));
const below = (lines: readonly Line[], chained: boolean): Line[] =>
  lines.map((line, i) => (chained && i === 0 ? { ...line, bands: line.bands.map((band) => ({ ...band, first: false })) } : line));

/** A pinned row, out of its place in the tree. */
export const pinnedLine = (id: string): Line => ({ id, depth: 0, bands: [], members: 0, folded: false });

/** Captions of dividers by the row that each stands above: the first one shown of a higher position. */
export function dividersAbove(session: Session, order: readonly string[]): Map<string, Divider[]> {
  const shown = order
    .flatMap((id) => session.channel.get(id) ?? [])
    .filter(({ kind }) => kind !== 'mix')
    .sort((a, b) => a.position - b.position);
  const above = new Map<string, Divider[]>();
  for (const divider of [...session.divider.values()].sort((a, b) => a.position - b.position)) {
    const below = shown.find(({ position }) => position > divider.position)?.id ?? END;
    above.set(below, [...(above.get(below) ?? []), divider]);
  }
  return above;
}
/** Stands for what is below the last row. */
export const END = ' end';

function linesOf(rows: readonly Row[], folded: ReadonlySet<string>): Line[] {
  const shown = rows.filter(({ path, channel }) => !channel.hidden && !path.some((id) => folded.has(id)));
  const channels = new Map(rows.map(({ channel }) => [channel.id, channel]));
  const members = new Map<string, number>();
  for (const { channel } of rows) if (channel.outputId) members.set(channel.outputId, (members.get(channel.outputId) ?? 0) + 1);
  return shown.map(({ channel, depth, path }, i) => {
    const own = members.get(channel.id) ?? 0;
    const around = own > 0 || channel.kind === 'bus' || channel.kind === 'mix' ? [...path, channel.id] : path;
    const next = shown[i + 1];
    const bands = around.map((id): Band => {
      const { colour, kind } = channels.get(id)!;
      return {
        id,
        colour,
        mix: kind === 'mix',
        first: id === channel.id,
        last: !next || !(next.path.includes(id) || next.channel.id === id)
      };
    });
    return { id: channel.id, depth, bands, members: own, folded: folded.has(channel.id) };
  });
}
