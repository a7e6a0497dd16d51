// The graph: order, ways, loops and the tree, on graphs that can be drawn by hand.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { carryOut, emptyDesk, trackCommand } from '../../tests/oracle/rig.ts';
import { newSend } from '../session/create.ts';
import { branchOf, edges, loopClosedBy, loopIn, successors, topological, treeOf, pathAlong } from './graph.ts';

const desk = () =>
  carryOut(
    emptyDesk(),
    trackCommand([{ id: 'a' }, { id: 'b' }, { id: 'c' }]),
    { do: 'buses.add', id: 'x', name: 'X', members: ['a', 'b'] },
    { do: 'buses.add', id: 'y', name: 'Y', members: ['x'] },
    { do: 'returns.add', id: 'r', name: 'R', outputId: 'y', sources: ['c', 'x'] }
  );

describe('graph', () => {
  it('puts every channel after all that feed it, and says the way to the output', () => {
    const session = desk();
    const order = topological(session);
    expect(order).toHaveLength(session.channel.size);
    for (const { from, to } of edges(session)) expect(order.indexOf(from)).toBeLessThan(order.indexOf(to));
    const next = successors(edges(session));
    expect(pathAlong(next, 'a', 'mix')).toEqual(['a', 'x', 'y', 'mix']);
    expect(pathAlong(next, 'c', 'y')).toEqual(['c', 'r', 'y']);
    expect(pathAlong(next, 'mix', 'a')).toBeNull();
  });

  it('finds the loop an edge would close, in both directions of time', () => {
    const session = desk();
    expect(loopClosedBy(session, [{ from: 'y', to: 'x', via: 'output' }], new Set(['y']))).toEqual(['Y', 'X', 'Y']);
    expect(loopClosedBy(session, [{ from: 'y', to: 'r', via: 'send' }], new Set())).toEqual(['Y', 'R', 'Y']);
    // With the outputs that make the loop re-routed in the same breath there is none.
    carryOut(session, { do: 'sends.remove', sources: ['x'], target: 'r' });
    const turned = [
      { from: 'y', to: 'x', via: 'output' as const },
      { from: 'x', to: 'mix', via: 'output' as const }
    ];
    expect(loopClosedBy(session, turned, new Set(['x', 'y']))).toBeNull();
    expect(loopClosedBy(session, [{ from: 'a', to: 'a', via: 'send' }], new Set())).toEqual(['Track a', 'Track a']);
  });

  it('shows each channel once, wherever it goes', () => {
    const session = carryOut(
      desk(),
      { do: 'channels.route', ids: ['c'], to: null, pair: 1 },
      { do: 'channels.route', ids: ['x'], to: null }
    );
    const { mix, elsewhere, nowhere } = treeOf(session);
    expect([mix, elsewhere, nowhere].map((rows) => rows.map(({ channel }) => channel.id))).toEqual([
      ['mix', 'y', 'r'],
      ['c'],
      ['x', 'a', 'b']
    ]);
    expect(branchOf(session, 'y')).toEqual(['y', 'r']);
  });

  it('orders any graph without loops completely', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(9), fc.nat(9)), { maxLength: 30 }), (pairs) => {
        const session = emptyDesk();
        for (let i = 0; i < 10; i++) carryOut(session, { do: 'buses.add', id: `b${i}`, name: `B${i}` });
        for (const [low, high] of pairs)
          if (low !== high)
            carryOut(session, { do: 'sends.set', sends: [{ source: `b${Math.min(low, high)}`, target: `b${Math.max(low, high)}` }] });
        const order = topological(session);
        expect(new Set(order).size).toBe(session.channel.size);
        for (const { from, to } of edges(session)) expect(order.indexOf(from)).toBeLessThan(order.indexOf(to));
      }),
      { numRuns: 50, seed: 3 }
    );
  });

  it('finds a loop exactly where there is no order, and every station of it leads to the next', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(7), fc.nat(7)), { maxLength: 14 }), (pairs) => {
        const session = emptyDesk();
        for (let i = 0; i < 8; i++) carryOut(session, { do: 'buses.add', id: `b${i}`, name: `b${i}` });
        // Past the commands, which would not have it.
        for (const [from, to] of pairs) session.send.set(`b${from}\nb${to}`, newSend(`b${from}`, session.channel.get(`b${to}`)!));
        const loop = loopIn(session);
        expect(loop === null).toBe(topological(session).length === session.channel.size);
        if (!loop) return;
        expect(loop[0]).toBe(loop.at(-1));
        for (let i = 1; i < loop.length; i++) expect(session.send.has(`${loop[i - 1]}\n${loop[i]}`)).toBe(true);
      }),
      { numRuns: 300, seed: 4 }
    );
  });
});
