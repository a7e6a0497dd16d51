// The Map's layout: tiers, folding, what a selection touches, nothing upon anything else, and speed enough for hundreds of rows.
import { expect, it } from 'vitest';
import { carryOut, emptyDesk, trackCommand } from '../../tests/oracle/rig.ts';
import { flowSvg } from '../formats/flowSvg.ts';
import { estimatedLevels, flowMap, riverWidth, touchedBy } from './flowMap.ts';
import { topological } from './graph.ts';

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

it('puts tiers in columns from left to right, the chain last, returns beneath all else', () => {
  const at = new Map(map().nodes.map((node) => [node.id, node]));
  const x = (id: string) => at.get(id)!.x;
  expect(x('a')).toBe(x('b'));
  expect(x('a')).toBeLessThan(x('low'));
  expect(x('low')).toBe(x('c'));
  expect([x('low') < x('mix'), x('mix') < x('end'), x('end') < x('#0')]).toEqual([true, true, true]);
  const lowest = Math.max(...['a', 'b', 'c', 'low', 'mix', 'k'].map((id) => at.get(id)!.y));
  expect(at.get('r')!.y).toBeGreaterThan(lowest);
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

it('lays 300 channels out without one upon another, and as a picture with every name in it', () => {
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
  const { nodes } = map(session);
  const places = new Set(nodes.map(({ x, y }) => `${x} ${Math.round(y / 12)}`));
  expect(places.size).toBe(nodes.length);
  const svg = flowSvg(session);
  for (const id of [...ids.map((name) => `Track ${name}`), 'B19', 'R9']) expect(svg).toContain(`>${id}<`);
  expect(flowSvg(desk())).toContain('LOW &#38; &#60;WIDE&#62;');
});
