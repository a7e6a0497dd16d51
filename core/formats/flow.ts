// The signal flow as a graph for other programs: GraphML (graphml.graphdrawing.org) and DOT (graphviz.org/doc/info/lang.html).
import { allEdges, type Edge } from '../routing/graph.ts';
import { levelOf, mutedOf } from '../routing/level.ts';
import { sendId, settingsOf, type Channel, type Session } from '../session/entities.ts';
import { dbText, inOrder } from '../session/select.ts';
import { sounds } from '../session/vcas.ts';

type Drawn = Edge & { readonly label: string; readonly db: number | null; readonly tap: string; readonly on: boolean };

/** Every edge with its level; interface outputs are nodes of their own, `out0`, `out1` … */
function flowOf(session: Session): { nodes: readonly Channel[]; outputs: readonly number[]; edges: readonly Drawn[] } {
  const nodes = inOrder(session).filter(sounds);
  const outputs = [...new Set(nodes.flatMap(({ outputPair }) => outputPair ?? []))].sort((a, b) => a - b);
  const edges = allEdges(session).map((edge): Drawn => {
    const send = edge.via === 'send' ? session.send.get(sendId(edge.from, edge.to))! : null;
    if (send) return { ...edge, label: `${dbText(send.levelDb)} dB ${send.tap}`, db: send.levelDb, tap: send.tap, on: send.on };
    const from = session.channel.get(edge.from)!;
    const db = levelOf(session, from);
    if (edge.via === 'key') return { ...edge, label: 'key', db: null, tap: '', on: true };
    return { ...edge, label: `${dbText(db)} dB`, db, tap: 'post', on: !mutedOf(session, from) };
  });
  const leaving = nodes.flatMap((channel): Drawn[] => {
    const { id, outputPair } = channel;
    const db = levelOf(session, channel);
    const on = !mutedOf(session, channel);
    return outputPair === null ? [] : [{ from: id, to: `out${outputPair}`, via: 'output', label: `${dbText(db)} dB`, db, tap: 'post', on }];
  });
  return { nodes, outputs, edges: [...edges, ...leaving] };
}

/** Text as XML 1.0 can hold it. */
export const xml = (text: string): string =>
  text
    .replace(/[&<>"']/g, (letter) => `&#${letter.codePointAt(0)};`)
    // What XML 1.0 cannot hold at all.
    .replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff\ud800-\udfff]/gu, '\ufffd');

/** GraphML 1.0, UTF-8; a level of −∞ is "-INF", as XML Schema writes it. */
export function graphML(session: Session): string {
  const { nodes, outputs, edges } = flowOf(session);
  const data = (key: string, value: string | number | boolean) => `<data key="${key}">${xml(String(value))}</data>`;
  const db = (value: number) => (value === -Infinity ? '-INF' : value);
  return `<?xml version="1.0" encoding="UTF-8"?>
<graphml xmlns="http://graphml.graphdrawing.org/xmlns" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" xsi:schemaLocation="http://graphml.graphdrawing.org/xmlns http://graphml.graphdrawing.org/xmlns/1.0/graphml.xsd">
  <key id="name" for="node" attr.name="name" attr.type="string"/>
  <key id="kind" for="node" attr.name="kind" attr.type="string"/>
  <key id="fader" for="node" attr.name="fader_db" attr.type="double"/>
  <key id="pan" for="node" attr.name="pan" attr.type="double"/>
  <key id="mute" for="node" attr.name="mute" attr.type="boolean"/>
  <key id="via" for="edge" attr.name="via" attr.type="string"/>
  <key id="level" for="edge" attr.name="level_db" attr.type="double"/>
  <key id="tap" for="edge" attr.name="tap" attr.type="string"/>
  <key id="on" for="edge" attr.name="on" attr.type="boolean"/>
  <graph id="${xml(settingsOf(session).name)}" edgedefault="directed">
${[
  ...nodes.map(
    ({ id, name, kind, faderDb, pan, mute }) =>
      `    <node id="${xml(id)}">${data('name', name)}${data('kind', kind)}${data('fader', db(faderDb))}${data('pan', pan)}${data('mute', mute)}</node>`
  ),
  ...outputs.map(
    (pair) => `    <node id="out${pair}">${data('name', `Outputs ${pair * 2 + 1}-${pair * 2 + 2}`)}${data('kind', 'output')}</node>`
  ),
  ...edges.map(
    ({ from, to, via, db: level, tap, on }, i) =>
      `    <edge id="e${i}" source="${xml(from)}" target="${xml(to)}">${data('via', via)}${level === null ? '' : data('level', db(level))}${tap ? data('tap', tap) : ''}${data('on', on)}</edge>`
  )
].join('\n')}
  </graph>
</graphml>
`;
}

const quoted = (text: string) => `"${text.replace(/[\\"]/g, '\\$&').replace(/\n/g, '\\n')}"`;
const SHAPE = { track: 'box', key: 'box', bus: 'box3d', mix: 'box3d', return: 'invtrapezium', cue: 'house', vca: 'plain' } as const;

/** DOT: main outputs solid, sends dashed, keys dotted. */
export function dot(session: Session): string {
  const { nodes, outputs, edges } = flowOf(session);
  const style = { output: 'solid', send: 'dashed', key: 'dotted' } as const;
  return `digraph ${quoted(settingsOf(session).name)} {
  rankdir=LR;
  node [fontname="Helvetica"]; edge [fontname="Helvetica", fontsize=9];
${[
  ...nodes.map(({ id, name, kind }) => `  ${quoted(id)} [label=${quoted(name)}, shape=${SHAPE[kind]}];`),
  ...outputs.map((pair) => `  out${pair} [label=${quoted(`Outputs ${pair * 2 + 1}–${pair * 2 + 2}`)}, shape=plaintext];`),
  ...edges.map(
    ({ from, to, via, label, on }) =>
      `  ${quoted(from)} -> ${quoted(to)} [label=${quoted(label)}, style=${style[via]}${on ? '' : ', color=gray'}];`
  )
].join('\n')}
}
`;
}
