// The Ledger's rows: the tree flattened, folded branches left out, with the contour bands that each row shows.
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
export type Section = { readonly key: 'mix' | 'elsewhere' | 'nowhere'; readonly caption: string; readonly lines: readonly Line[] };

export function sectionsOf(tree: Tree, folded: ReadonlySet<string>): Section[] {
  const count = (rows: readonly Row[]) => `${rows.length} channel${rows.length === 1 ? '' : 's'}`;
  const sections: Section[] = [
    { key: 'mix', caption: '', lines: linesOf(tree.mix, folded) },
    { key: 'elsewhere', caption: `Other outputs · ${count(tree.elsewhere)}`, lines: linesOf(tree.elsewhere, folded) },
    { key: 'nowhere', caption: `Going nowhere · ${count(tree.nowhere)}`, lines: linesOf(tree.nowhere, folded) }
  ];
  return sections.filter(({ lines }) => lines.length > 0);
}

function linesOf(rows: readonly Row[], folded: ReadonlySet<string>): Line[] {
  const shown = rows.filter(({ path }) => !path.some((id) => folded.has(id)));
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
