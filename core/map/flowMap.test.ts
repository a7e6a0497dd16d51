// The Map's layout: columns, folding, strands, what a selection touches; and nothing upon anything else, whatever the desk.
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { carryOut, emptyDesk, trackCommand } from '../../tests/oracle/rig.ts';
import { flowSvg } from '../formats/flowSvg.ts';
import { topological } from '../routing/graph.ts';
import { flowMap, type FlowMap, type MapNode } from './flowMap.ts';
import { estimatedLevels, riverWidth } from './levels.ts';
import { touchedBy } from './touched.ts';

const desk = () =>
  carryOut(
    emptyDesk(),
    trackCommand([{ id: 'a' }, { id: 'b' }, { id: 'c' }]),
    { do: 'buses.add', id: 'low', name: 'LOW & <WIDE>', members: ['a', 'b'] },
    { do: 'returns.add', id: 'r', name: 'Room', outputId: 'low', sources: ['a', 'c'] },
    { do: 'chain.add', id: 'end', name: 'END' },
    { do: 'keys.add', id: 'k', name: 'Key' },
    { do: 'inserts.add', id: 'x', channelId: 'c', type: 'comp' },
    { do: 'inserts.key', id: 'x', source: 'k', tap: 'pre' },
    { do: 'sends.set', sends: [{ source: 'a', target: 'r', level: -6 }] }
  );
const map = (session = desk(), only: ReadonlySet<string> | null = null, folded = new Set<string>()) =>
  flowMap(session, topological(session), { only, folded });

it('puts names in one column, tiers to the right of it, the chain last, a return where it flows in', () => {
  const at = new Map(map().nodes.map((node) => [node.id, node]));
  const x = (id: string) => at.get(id)!.x;
  expect([x('a'), x('c'), x('k')]).toEqual([x('b'), x('b'), x('b')]);
  expect([x('a') < x('low'), x('low') < x('mix'), x('mix') < x('end'), x('end') < x('#0')]).toEqual([true, true, true, true]);
  const { y, h } = at.get('r')!;
  // Beneath the last of its bus's tracks, before the next track, and left of the bus.
  expect([x('r') < x('low'), y > at.get('b')!.y, y + h / 2 < at.get('c')!.y]).toEqual([true, true, true]);
});

it('draws every output, send and key once; a folded branch stands for all in it', () => {
  const { edges } = map();
  expect(edges.map(({ key }) => key).sort()).toEqual(
    [
      ...['output a low', 'output b low', 'output c mix', 'output end #0', 'output low mix', 'output mix end', 'output r low'],
      ...['send a r', 'send c r', 'key k c']
    ].sort()
  );
  const folded = map(desk(), null, new Set(['low']));
  expect(folded.nodes.find(({ id }) => id === 'low')).toMatchObject({ folded: 3 });
  expect(folded.nodes.some(({ id }) => id === 'a' || id === 'r')).toBe(false);
  expect(folded.edges.map(({ key }) => key)).toContain('send c low');
});

it('leaves out what is hidden and passes it by: rivers run on to what is shown', () => {
  const keys = (session = desk()) =>
    map(session)
      .edges.map(({ key }) => key)
      .sort();
  const hide = (...ids: string[]) => carryOut(desk(), { do: 'hides.set', ids, on: true });
  expect(keys(hide('low', 'b'))).toEqual(
    ['output a mix', 'output c mix', 'output end #0', 'output mix end', 'output r mix', 'send a r', 'send c r', 'key k c'].sort()
  );
  expect(keys(hide('r', 'k'))).toEqual([
    'output a low',
    'output b low',
    'output c mix',
    'output end #0',
    'output low mix',
    'output mix end'
  ]);
  // The last stage of the chain too: the mix bus is then seen to go out by itself.
  const { nodes, edges } = map(hide('end'));
  expect(edges.map(({ key }) => key)).toContain('output mix #0');
  expect(nodes.find(({ id }) => id === '#0')!.x).toBeGreaterThan(nodes.find(({ id }) => id === 'mix')!.x);
});

it('shows of a selection what it touches, before and after it', () => {
  expect([...touchedBy(desk(), new Set(['b']))].sort()).toEqual(['b', 'end', 'low', 'mix']);
  expect([...touchedBy(desk(), new Set(['r']))].sort()).toEqual(['a', 'c', 'end', 'k', 'low', 'mix', 'r']);
});

it('is as wide as it is loud: equal tracks together come 3 dB over one', () => {
  const session = carryOut(desk(), { do: 'sends.remove', sources: ['a', 'c'], target: 'r' });
  const levels = estimatedLevels(session, topological(session));
  expect(levels.get('low')! - levels.get('a')!).toBeCloseTo(3.01, 2);
  expect(riverWidth(-Infinity)).toBeLessThan(riverWidth(-50));
  expect(riverWidth(-20)).toBeGreaterThan(riverWidth(-30));
});

it('is a picture of 300 channels with every name in it', () => {
  const ids = Array.from({ length: 270 }, (_, i) => `t${i}`);
  const session = carryOut(
    emptyDesk(),
    trackCommand(ids.map((id) => ({ id }))),
    ...Array.from({ length: 20 }, (_, i) => ({
      do: 'buses.add' as const,
      id: `b${i}`,
      name: `B${i}`,
      members: ids.filter((_id, n) => n % 20 === i)
    })),
    ...Array.from({ length: 10 }, (_, i) => ({
      do: 'returns.add' as const,
      id: `r${i}`,
      name: `R${i}`,
      sources: ids.slice(i * 20, i * 20 + 60)
    }))
  );
  const svg = flowSvg(session);
  for (const id of [...ids.map((name) => `Track ${name}`), 'B19', 'R9']) expect(svg).toContain(`>${id}<`);
  expect(flowSvg(desk())).toContain('LOW &#38; &#60;WIDE&#62;');
});

/** Points of an SVG path of M, L, H, V, Q and C, close to one another. */
function points(d: string): [number, number][] {
  const found: [number, number][] = [];
  let at: [number, number] = [0, 0];
  for (const [, letter, numbers] of d.matchAll(/([MLHVQC])([^MLHVQC]*)/g)) {
    const n = numbers.trim().split(/[ ,]+/).map(Number);
    const to: [number, number] = letter === 'H' ? [n[0], at[1]] : letter === 'V' ? [at[0], n[0]] : [n.at(-2)!, n.at(-1)!];
    const knots = letter === 'C' ? [at, [n[0], n[1]], [n[2], n[3]], to] : letter === 'Q' ? [at, [n[0], n[1]], to] : [at, to];
    if (letter !== 'M')
      for (let i = 0; i <= 60; i++) {
        const t = i / 60;
        let level = knots.map(([x, y]) => [x, y]);
        while (level.length > 1) level = level.slice(1).map(([x, y], j) => [level[j][0] * (1 - t) + x * t, level[j][1] * (1 - t) + y * t]);
        found.push([level[0][0], level[0][1]]);
      }
    at = to;
  }
  return found;
}
/** Where a station's name and box are. */
const area = ({ kind, x, y, w, h }: MapNode) =>
  kind === 'track' || kind === 'key'
    ? { left: x - w, right: x + 2, top: y - 5, bottom: y + 5 }
    : { left: x + 1, right: x + w - 1, top: y - h / 2 + 1, bottom: y + h / 2 - 1 };
type Area = ReturnType<typeof area>;
const meet = (a: Area, b: Area) => a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom;

/** What lies upon what: names and boxes of two stations, and lines over stations that they neither leave nor reach. */
function collisions({ nodes, edges, strands }: FlowMap): string[] {
  const found: string[] = [];
  const areas = nodes.map((node) => ({ node, area: area(node) }));
  areas.forEach((one, i) => {
    for (const two of areas.slice(i + 1)) if (meet(one.area, two.area)) found.push(`${one.node.id} on ${two.node.id}`);
  });
  const edgeOf = new Map(edges.map((edge) => [edge.key, edge]));
  const lines = [
    ...edges.filter(({ via }) => via !== 'send').map(({ key, d, from, to }) => ({ key, d, ends: [from, to] })),
    ...strands.map(({ key, d, to, sends }) => ({ key, d, ends: [to, ...sends.map((send) => edgeOf.get(send)!.from)] }))
  ];
  for (const { key, d, ends } of lines)
    for (const [x, y] of points(d))
      for (const { node, area: box } of areas)
        if (!ends.includes(node.id) && x > box.left && x < box.right && y > box.top && y < box.bottom) found.push(`${key} over ${node.id}`);
  return [...new Set(found)];
}

/** A desk of any shape: tracks in buses in buses, returns that flow in anywhere, sends and keys from anywhere. */
const anyDesk = fc.record({
  tracks: fc.integer({ min: 1, max: 30 }),
  buses: fc.array(fc.record({ into: fc.nat(5), share: fc.nat(8) }), { maxLength: 6 }),
  returns: fc.array(fc.record({ into: fc.nat(6), from: fc.array(fc.nat(40), { maxLength: 12 }) }), { maxLength: 5 }),
  names: fc.integer({ min: 2, max: 24 }),
  key: fc.boolean()
});
type AnyDesk = typeof anyDesk extends fc.Arbitrary<infer T> ? T : never;
function made({ tracks, buses, returns, names, key }: AnyDesk) {
  const ids = Array.from({ length: tracks }, (_, i) => `t${i}`);
  const session = carryOut(
    emptyDesk(),
    trackCommand(ids.map((id) => ({ id }))),
    { do: 'channels.rename', names: ids.map((id, i) => ({ id, name: `${'Mezzo wing'.repeat(3).slice(0, names)} ${i}` })) },
    ...buses.map(({ share }, i) => ({
      ...{ do: 'buses.add' as const, id: `b${i}`, name: `BUS ${i}` },
      members: ids.filter((_, n) => n % buses.length === i && n % 9 >= share)
    })),
    ...returns.map(({ into, from }, i) => ({
      ...{ do: 'returns.add' as const, id: `r${i}`, name: `Return ${i}`, outputId: into < buses.length ? `b${into}` : 'mix' },
      sources: [...new Set(from.map((n) => ids[n % tracks]))]
    }))
  );
  // Buses into buses that come after them: no loops.
  buses.forEach(({ into }, i) => {
    if (into > i && into < buses.length) carryOut(session, { do: 'channels.route', ids: [`b${i}`], to: `b${into}` });
  });
  if (key && buses.length) {
    const command = { do: 'inserts.add' as const, id: 'x', channelId: 'b0', type: 'comp' as const };
    carryOut(session, { do: 'keys.add', id: 'k', name: 'Key' }, command, { do: 'inserts.key', id: 'x', source: 'k', tap: 'pre' });
  }
  return session;
}

it('lays no name upon another, and no line over a name that it does not belong to, whatever the desk', () => {
  fc.assert(
    fc.property(anyDesk, fc.constantFrom(null, 0), fc.integer({ min: 300, max: 900 }), (desk, fold, height) => {
      const session = made(desk);
      const folded = fold === null ? null : new Set<string>();
      expect(collisions(flowMap(session, topological(session), { only: null, folded, width: 1280, height, readable: 0.93 }))).toEqual([]);
    }),
    { numRuns: 60, seed: 32 }
  );
});

it('uses the width of the window, folds the largest families where it is not high enough, and says which', () => {
  const ids = Array.from({ length: 60 }, (_, i) => `t${i}`);
  const sizes = [20, 16, 12, 8, 4];
  const session = carryOut(
    emptyDesk(),
    trackCommand(ids.map((id) => ({ id }))),
    ...sizes.map((size, i) => {
      const before = sizes.slice(0, i).reduce((sum, each) => sum + each, 0);
      return { do: 'buses.add' as const, id: `b${i}`, name: `B${i}`, members: ids.slice(before, before + size) };
    })
  );
  const laid = (height: number) =>
    flowMap(session, topological(session), { only: null, folded: null, width: 1280, height, readable: 0.93 });
  expect([laid(1600).folded, laid(1600).width]).toEqual([[], 1280]);
  const small = laid(560);
  expect([small.folded, small.height <= 560 / 0.93]).toEqual([['b0', 'b1'], true]);
  expect(small.nodes.find(({ id }) => id === 'b0')).toMatchObject({ folded: 20, foldable: true });
  // Names at the very right and left stay in the window.
  for (const node of small.nodes) expect([area(node).left >= 0, area(node).right <= 1280]).toEqual([true, true]);
});

it('runs sends of a family to one return in one strand, which knows its sends and where they join', () => {
  const { strands } = map();
  expect(strands.map(({ of, to, sends, dots }) => [of, to, sends, dots.length])).toEqual([
    ['low', 'r', ['send a r'], 1],
    ['mix', 'r', ['send c r'], 1]
  ]);
  const folded = map(desk(), null, new Set(['low']));
  expect(folded.strands.map(({ of, to }) => [of, to])).toEqual([['mix', 'low']]);
});
