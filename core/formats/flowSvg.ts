// The Map as an SVG picture for people, in the colours of the day, readable without this program: all of it, as large as it needs to be.
import { flowMap, type MapEdge, type MapNode } from '../map/flowMap.ts';
import { topological } from '../routing/graph.ts';
import { settingsOf, type Session } from '../session/entities.ts';
import { dbText } from '../session/select.ts';
import { xml } from './flow.ts';
import { hexOf } from './hueHex.ts';

/** SVG 1.1 with a title on every line: names, levels and taps; sends of a family to one return are one strand, all told in its title. */
export function flowSvg(session: Session): string {
  const { nodes, edges, strands, width, height } = flowMap(session, topological(session), { only: null, folded: new Set() });
  const names = new Map(nodes.map(({ id, name }) => [id, name]));
  const saying = ({ from, to, via, tap, db }: MapEdge) =>
    `${names.get(from)} → ${names.get(to)}${via === 'key' ? ', key' : `, ${dbText(db)} dB${via === 'send' ? ` ${tap}` : ''}`}`;
  const line = (d: string, stroke: string, wide: number, on: boolean, dash: string, said: string) =>
    `  <path d="${d}" fill="none" stroke="${stroke}" stroke-width="${wide.toFixed(1)}" stroke-linecap="round" opacity="${on ? 0.8 : 0.25}"${dash && ` stroke-dasharray="${dash}"`}><title>${xml(said)}</title></path>`;
  const sends = new Map(edges.filter(({ via }) => via === 'send').map((edge) => [edge.key, edge]));
  const lines = [
    ...edges.filter(({ via }) => via === 'output').map((edge) => line(edge.d, hexOf(edge.colour), edge.width, edge.on, '', saying(edge))),
    ...strands.map(({ d, colour, width: wide, on, sends: keys }) =>
      line(d, hexOf(colour), wide, on, '4 4', keys.map((key) => saying(sends.get(key)!)).join('\n'))
    ),
    ...edges.filter(({ via }) => via === 'key').map((edge) => line(edge.d, '#a9770f', edge.width, edge.on, '1 5', saying(edge)))
  ];
  return `<?xml version="1.0" encoding="UTF-8"?>
<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}" width="${width}" height="${height}" font-family="Atkinson Hyperlegible Next, Helvetica, sans-serif" font-size="12">
  <title>Signal flow of ${xml(settingsOf(session).name)}</title>
  <rect width="100%" height="100%" fill="#f4efe4"/>
${[...lines, ...nodes.map(label)].join('\n')}
</svg>
`;
}

/** A basin: its sides run together towards the bottom. */
export const basinPath = ({ x, y, w, h }: Pick<MapNode, 'x' | 'y' | 'w' | 'h'>): string =>
  `M${x} ${y - h / 2}h${w}l-5 ${h - 5}q-1 5 -6 5h${22 - w}q-5 0 -6 -5z`;

function label(node: MapNode): string {
  const { label: name, kind, x, y, w, h, colour, muted } = node;
  const fade = muted ? ' opacity="0.45"' : '';
  const text = (at: number, anchor: string, strong = false) =>
    `<text x="${at}" y="${y + 4}" text-anchor="${anchor}" fill="#20302f"${strong ? ' font-weight="700"' : ''}>${xml(name)}</text>`;
  if (kind === 'return' || kind === 'cue')
    return `  <g${fade}><path d="${basinPath(node)}" fill="#fbf8f1" stroke="${hexOf(colour)}" stroke-width="1.5"/>${text(x + w / 2, 'middle')}</g>`;
  if (kind === 'output') return `  ${text(x + 6, 'start', true)}`;
  if (kind === 'track' || kind === 'key') return `  <g${fade}>${text(x, 'end')}</g>`;
  const stroke = kind === 'mix' ? '#20302f' : hexOf(colour);
  return `  <g${fade}><rect x="${x}" y="${y - h / 2}" width="${w}" height="${h}" rx="7" fill="#fbf8f1" stroke="${stroke}" stroke-width="2"/>${text(x + 9, 'start', true)}</g>`;
}
