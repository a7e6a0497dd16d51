// The Map as an SVG picture for people, in the colours of the day, readable without this program.
import { flowMap, type MapNode } from '../routing/flowMap.ts';
import { topological } from '../routing/graph.ts';
import { settingsOf, type Session } from '../session/entities.ts';
import { dbText } from '../session/select.ts';
import { xml } from './flow.ts';
import { hexOf } from './hueHex.ts';

const DASH = { output: '', send: ' stroke-dasharray="4 4"', key: ' stroke-dasharray="1 5"' } as const;

/** SVG 1.1 with a title on every line: names, levels and taps. */
export function flowSvg(session: Session): string {
  const { nodes, edges, width, height } = flowMap(session, topological(session), { only: null, folded: new Set() });
  const names = new Map(nodes.map(({ id, name }) => [id, name]));
  const lines = edges.map(({ from, to, via, tap, db, d, on, colour, width: stroke }) => {
    const said = `${names.get(from)} → ${names.get(to)}${via === 'key' ? ', key' : `, ${dbText(db)} dB${via === 'send' ? ` ${tap}` : ''}`}`;
    return `  <path d="${d}" fill="none" stroke="${via === 'key' ? '#a9770f' : hexOf(colour)}" stroke-width="${stroke.toFixed(1)}" stroke-linecap="round" opacity="${on ? 0.8 : 0.25}"${DASH[via]}><title>${xml(said)}</title></path>`;
  });
  const labels = nodes.map((node) => label(node));
  return `<?xml version="1.0" encoding="UTF-8"?>
<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}" width="${width}" height="${height}" font-family="Atkinson Hyperlegible Next, Helvetica, sans-serif" font-size="12">
  <title>Signal flow of ${xml(settingsOf(session).name)}</title>
  <rect width="100%" height="100%" fill="#f4efe4"/>
${[...lines, ...labels].join('\n')}
</svg>
`;
}

function label({ name, kind, x, y, colour, muted }: MapNode): string {
  const fade = muted ? ' opacity="0.45"' : '';
  const text = xml(name);
  if (kind === 'return' || kind === 'cue')
    return `  <g${fade}><path d="M${x - 46} ${y - 12}h92v8q0 16 -16 16h-60q-16 0 -16 -16z" fill="#fbf8f1" stroke="${hexOf(colour)}" stroke-width="1.5"/><text x="${x}" y="${y + 4}" text-anchor="middle" fill="#20302f">${text}</text></g>`;
  if (kind === 'output') return `  <text x="${x + 4}" y="${y + 4}" fill="#20302f" font-weight="600">${text}</text>`;
  if (kind === 'track' || kind === 'key') return `  <text x="${x}" y="${y + 4}" text-anchor="end" fill="#20302f"${fade}>${text}</text>`;
  return `  <g${fade}><circle cx="${x}" cy="${y}" r="6" fill="#fbf8f1" stroke="${hexOf(colour)}" stroke-width="3"/><text x="${x}" y="${y - 11}" text-anchor="middle" fill="#20302f" font-weight="700">${text}</text></g>`;
}
