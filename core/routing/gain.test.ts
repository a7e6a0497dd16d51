// Path gain against the engine: an impulse sent through random sessions arrives with the gain that is said.
import { execFileSync } from 'node:child_process';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { carryOut, emptyDesk, play, rig, trackCommand } from '../../tests/oracle/rig.ts';
import type { Command } from '../commands/index.ts';
import { dot, graphML } from '../formats/flow.ts';
import { gainBetween, levelsOf, paths } from './gain.ts';
import { trace, traceText } from './trace.ts';

const pan = fc.integer({ min: -100, max: 100 });
const level = fc.integer({ min: -30, max: 6 });
const send = fc.record({
  source: fc.nat(5),
  target: fc.nat(5),
  level,
  tap: fc.constantFrom('input' as const, 'pre' as const, 'post' as const),
  mono: fc.boolean(),
  pan: fc.option(pan),
  on: fc.boolean()
});
const desk = fc.record({
  width: fc.constantFrom(1 as const, 2 as const),
  law: fc.constantFrom(-3 as const, -4.5 as const, -6 as const, 0 as const),
  pans: fc.array(pan, { minLength: 6, maxLength: 6 }),
  levels: fc.array(level, { minLength: 6, maxLength: 6 }),
  outputs: fc.array(fc.nat(5), { minLength: 5, maxLength: 5 }),
  muted: fc.option(fc.nat(5)),
  /** Two VCAs, one in the other; what they hold, their levels, and which of them is muted, if one is. */
  held: fc.tuple(fc.uniqueArray(fc.nat(5)), fc.uniqueArray(fc.nat(5))),
  vcas: fc.record({ inner: level, outer: level, muted: fc.constantFrom(null, null, null, null, 'inner', 'outer') }),
  swap: fc.boolean(),
  pins: fc.array(fc.option(pan), { minLength: 6, maxLength: 6 }),
  /** Channels that an insert widens: mono ones begin with one side. */
  widened: fc.uniqueArray(fc.constantFrom(0, 1, 3, 4), { maxLength: 3 }),
  spreads: fc.array(fc.constantFrom(100, 100, 0, 60, 200), { minLength: 6, maxLength: 6 }),
  sends: fc.array(send, { maxLength: 8 })
});

describe('path gain', () => {
  it('is what the engine does to an impulse, on random sessions, to 0.01 dB', () => {
    fc.assert(
      fc.property(desk, ({ width, law, pans, levels, outputs, muted, swap, pins, spreads, widened, sends, held, vcas }) => {
        const session = carryOut(emptyDesk(), trackCommand([{ id: 'c0', width, frames: 64 }]), { do: 'settings.set', panLaw: law });
        for (let i = 1; i < 6; i++) carryOut(session, { do: 'buses.add', id: `c${i}`, name: `B${i}` });
        outputs.forEach((to, i) => to > i && carryOut(session, { do: 'channels.route', ids: [`c${i}`], to: `c${to}` }));
        const narrow = widened.filter((i) => i > 0).map((i) => `c${i}`);
        if (narrow.length) carryOut(session, { do: 'widths.set', ids: narrow, width: 1 });
        for (const i of widened)
          carryOut(
            session,
            { do: 'inserts.add', id: `w${i}`, channelId: `c${i}`, type: 'delay' },
            { do: 'inserts.set', id: `w${i}`, values: { mix: 0 } }
          );
        const commands: Command[] = [
          { do: 'pans.set', pans: pans.map((at, i) => ({ id: `c${i}`, pan: at, right: pins[i], spread: spreads[i] })) },
          { do: 'faders.set', levels: levels.map((db, i) => ({ id: `c${i}`, level: db })) },
          { do: 'trims.set', levels: [{ id: 'c2', level: -4 }] },
          { do: 'polarities.set', ids: ['c3'], on: true },
          { do: 'inserts.add', id: 'x', channelId: 'c4', type: 'trim' },
          { do: 'inserts.set', id: 'x', values: { swap: swap ? 1 : 0, turnL: 1, gain: 3 } }
        ];
        const ids = (list: readonly number[]) => list.map((i) => `c${i}`).map((id) => (id === 'c5' ? 'mix' : id));
        commands.push(
          { do: 'vcas.add', id: 'inner', name: 'I', members: ids(held[0]) },
          { do: 'vcas.add', id: 'outer', name: 'O', members: ['inner', ...ids(held[1])] },
          { do: 'faders.set', levels: (['inner', 'outer'] as const).map((id) => ({ id, level: vcas[id] })) }
        );
        if (vcas.muted !== null) commands.push({ do: 'mutes.set', ids: [vcas.muted], on: true });
        if (muted !== null) commands.push({ do: 'mutes.set', ids: [`c${muted}`], on: true });
        for (const { source, target, ...rest } of sends)
          if (source < target) commands.push({ do: 'sends.set', sends: [{ source: `c${source}`, target: `c${target}`, ...rest }] });
        carryOut(session, ...commands);
        const one = (side: number) => Array.from({ length: width }, (_, i) => Float32Array.of(i === side ? 1 : 0));
        const arrived = (side: number) => play(rig(session, new Map([['c0', one(side)]]), false), 64).map((samples) => samples[0]);
        const [ll, rl, lr, rr] = gainBetween(session, 'c0', 'mix') ?? [0, 0, 0, 0];
        const near = (got: number, said: number) => expect(Math.abs(got - said)).toBeLessThan(1e-6 + Math.abs(said) * 0.001);
        // The ways of a trace add up to the same.
        const ways = paths(session, 'c0', 'mix', Infinity);
        [ll, rl, lr, rr].forEach((total, cell) => expect(ways.reduce((sum, { gain }) => sum + gain[cell], 0)).toBeCloseTo(total, 9));
        const traced = trace(session, 'c0', { id: 'mix' });
        if (widened.length === 0) expect(traced.ok && traced.value.total).toEqual(levelsOf([ll, rl, lr, rr]));
        const [left, right] = arrived(0);
        near(left, width === 1 ? ll + rl : ll);
        near(right, width === 1 ? lr + rr : lr);
        if (width === 2) {
          const [fromRight, toRight] = arrived(1);
          near(fromRight, rl);
          near(toRight, rr);
        }
      }),
      { numRuns: 60, seed: 11 }
    );
  });

  it('adds parallel ways, and lists them loudest first', () => {
    const session = carryOut(
      emptyDesk(),
      trackCommand([{ id: 'a', width: 2 }]),
      { do: 'buses.add', id: 'b', name: 'B', members: ['a'] },
      { do: 'returns.add', id: 'r', name: 'R', effect: 'none' },
      { do: 'sends.set', sends: [{ source: 'a', target: 'r', level: -6.0206 }] }
    );
    expect(levelsOf(gainBetween(session, 'a', 'mix')!).left).toBeCloseTo(3.52, 2);
    const list = paths(session, 'a', 'mix', 5);
    expect(list.map(({ stations }) => stations.join(' '))).toEqual(['a b mix', 'a r mix']);
    expect(levelsOf(list[1].gain).power).toBeCloseTo(-6.02, 2);
    expect(gainBetween(session, 'r', 'b')).toBeNull();
  });
});

describe('trace', () => {
  const desk = () =>
    carryOut(
      emptyDesk(),
      trackCommand([{ id: 'a' }]),
      { do: 'buses.add', id: 'b', name: 'BRASS', members: ['a'] },
      { do: 'returns.add', id: 'r', name: 'Shed', outputId: 'b' },
      { do: 'chain.add', id: 'f', name: 'FINAL' },
      { do: 'cues.add', id: 'q', name: 'Player', from: 'mix' },
      { do: 'sends.set', sends: [{ source: 'a', target: 'r', level: -6, tap: 'pre' }] },
      {
        do: 'faders.set',
        levels: [
          { id: 'a', level: -2 },
          { id: 'b', level: -3 },
          { id: 'f', level: -1 }
        ]
      },
      { do: 'pans.set', pans: [{ id: 'a', pan: -100 }] }
    );

  it('says every station to the output, with stages, taps and running levels', () => {
    const session = carryOut(desk(), { do: 'sends.remove', sources: ['a'], target: 'r' });
    const traced = trace(session, 'a');
    if (!traced.ok) throw new Error(traced.error.message);
    const { paths: list, total, exact, to } = traced.value;
    expect(to).toEqual({ id: null, pair: 0, name: 'Outputs 1–2' });
    expect(list[0].stations.map(({ name, by, levels }) => [name, by, Math.round(levels.left * 100) / 100])).toEqual([
      ['Track a', 'output', -2],
      ['BRASS', 'output', -5],
      ['MIX', 'output', -5],
      ['FINAL', 'end', -6]
    ]);
    expect(list[0].stations[0].stages.map(({ what, db }) => [what, db])).toEqual([
      ['fader', -2],
      ['pan', null]
    ]);
    expect([total.right, exact]).toEqual([-Infinity, true]);
    expect(total.power).toBeCloseTo(-6 - 3.01, 2);
    expect(traceText(session, traced.value)).toMatch(/BRASS +fader −3\.0 dB · pan|BRASS +fader −3\.0 dB →/);
  });

  it('says what the engine does where lanes play: faders, trims, pins, sends, mutes, VCAs, at any frame', () => {
    const [a, b, frames] = [3001, 17_000, 20_000];
    const lane = (channelId: string, of: string, [one, two]: readonly number[], target?: string): Command[] => {
      const id = `${channelId}:${of}`;
      const points = [a, b].map((at, i) => ({ at, value: i ? two : one, shape: of === 'mute' ? 'hold' : 'linear' }));
      return [
        { do: 'lanes.add', id, channelId, of, target },
        { do: 'points.set', lane: id, points }
      ] as Command[];
    };
    const session = carryOut(
      emptyDesk(),
      trackCommand([{ id: 'a', frames }]),
      { do: 'buses.add', id: 'bus', name: 'BUS', members: ['a'] },
      { do: 'returns.add', id: 'r', name: 'R', effect: 'none' },
      { do: 'sends.set', sends: [{ source: 'a', target: 'r', level: -30, tap: 'pre' }] },
      { do: 'vcas.add', id: 'v', name: 'V', members: ['bus'] },
      ...lane('a', 'fader', [-20, 2]),
      ...lane('a', 'faderTrim', [1, -3]),
      ...lane('a', 'pan', [-70, 90]),
      ...lane('bus', 'mute', [0, 1]),
      ...lane('v', 'fader', [-6, 6]),
      ...lane('a', 'sendLevel', [-12, -2], 'r'),
      ...lane('a', 'sendTrim', [0, 4], 'r')
    );
    const [left, right] = play(rig(session, new Map([['a', [new Float32Array(frames).fill(1)]]])), frames);
    for (const at of [0, 3001, 6400, 12_800, 16_960, 18_000]) {
      const traced = trace(session, 'a', { id: 'mix' }, { at });
      if (!traced.ok) throw new Error(traced.error.message);
      const { total } = traced.value;
      for (const [side, told] of [
        [left, total.left],
        [right, total.right]
      ] as const)
        expect(told).toBeCloseTo(20 * Math.log10(side[at]), 2);
      expect(traceText(session, traced.value)).toMatch(at < b ? /at 0:00.*Track a +fader by lane/s : /BUS +muted by lane −∞/);
    }
    const set = trace(session, 'a', { id: 'mix' });
    expect(set).toMatchObject({ value: { at: null } });
    if (set.ok) expect(traceText(session, set.value)).not.toMatch(/lane|0:00/);
  });

  it('adds ways exactly where only gains are on them, and says “up to” and what is not counted elsewhere', () => {
    const session = desk();
    const traced = trace(session, 'a', { id: 'mix' });
    if (!traced.ok) throw new Error(traced.error.message);
    expect(traced.value.paths).toHaveLength(2);
    expect(traced.value.exact).toBe(false);
    expect(traced.value.uncounted).toEqual(['reverb on Shed']);
    // −5 dB dry on the left and, before the fader, −6 − 3 through the return: both at once at most.
    expect(traced.value.total.left).toBeCloseTo(20 * Math.log10(10 ** (-5 / 20) + 10 ** (-9 / 20)), 2);
    carryOut(session, { do: 'inserts.bypass', ids: ['r:reverb'], on: true });
    const dry = trace(session, 'a', { id: 'mix' });
    expect(dry.ok && dry.value.exact).toBe(true);
    const cue = trace(session, 'a', { id: 'q' });
    expect(cue.ok && cue.value.paths[0].stations.map(({ by, tap }) => `${by} ${tap}`)).toEqual(['send pre', 'end post']);
    expect(trace(session, 'nobody').ok).toBe(false);
    const none = trace(session, 'f', { id: 'r' });
    expect(none.ok && traceText(session, none.value)).toBe('FINAL → Shed: no path.\n');
  });

  it('leaves as a graph that other programs read: the same nodes, edges and levels', () => {
    const session = carryOut(desk(), { do: 'channels.rename', names: [{ id: 'b', name: 'A "<B>" & C' }] });
    const graph = graphML(session);
    expect(graph.match(/<node /g)).toHaveLength(session.channel.size + 2);
    expect(graph).toContain('A &#34;&#60;B&#62;&#34; &#38; C');
    expect(graph).toContain(
      '<edge id="e6" source="a" target="r"><data key="via">send</data><data key="level">-6</data><data key="tap">pre</data>'
    );
    // Graphviz reads both: it counts what it understood.
    const counted = (text: string, ...command: [string, ...string[]]) => {
      const read = execFileSync(command[0], command.slice(1), { input: text, encoding: 'utf8', stdio: ['pipe', 'pipe', 'ignore'] });
      return execFileSync('gc', ['-a'], { input: read, encoding: 'utf8' }).trim().split(/\s+/).slice(0, 2).map(Number);
    };
    expect(counted(graph, 'graphml2gv')).toEqual([session.channel.size + 2, 9]);
    expect(counted(dot(session), 'dot', '-Tcanon')).toEqual([session.channel.size + 2, 9]);
    expect(dot(session)).toContain('"a" -> "r" [label="−6.0 dB pre", style=dashed];');
    expect(dot(session)).toContain('"b" [label="A \\"<B>\\" & C", shape=box3d];');
  });
});

describe('very many ways', () => {
  /** A ladder of returns: from each there are two ways to the next, its output and a send, so that n of them make 2 to the power of n. */
  const ladder = (rungs: number) => {
    const session = carryOut(emptyDesk(), trackCommand([{ id: 'a', frames: 64 }]));
    const ids = ['a', ...Array.from({ length: rungs }, (_, i) => `r${i}`)];
    for (const id of ids.slice(1)) carryOut(session, { do: 'buses.add', id, name: id.toUpperCase() });
    ids
      .slice(0, -1)
      .forEach((id, i) =>
        carryOut(
          session,
          { do: 'channels.route', ids: [id], to: ids[i + 1] },
          { do: 'sends.set', sends: [{ source: id, target: ids[i + 1], level: -6 - i / 10 }] }
        )
      );
    return session;
  };
  const brief = (session: ReturnType<typeof ladder>) => {
    const traced = trace(session, 'a');
    if (!traced.ok) throw new Error(traced.error.message);
    return traced.value;
  };

  it('come to the total that the engine’s sum would, however many, and the loudest are listed first', () => {
    const { total, exact, paths: ways } = brief(ladder(18));
    // Each rung adds a send to unity: a product, as ways are many and stages are few.
    const wanted = Array.from({ length: 18 }, (_, i) => 20 * Math.log10(1 + 10 ** ((-6 - i / 10) / 20))).reduce((sum, db) => sum + db, 0);
    expect([exact, ways.length]).toEqual([true, 12]);
    expect(total.power - ways[0].levels.power).toBeCloseTo(wanted, 6);
    const levels = ways.map((way) => way.levels.power);
    expect(levels).toEqual(levels.toSorted((a, b) => b - a));
    // The loudest takes every output; the next ones one send each, the loudest send first.
    expect(levels.slice(1, 4).map((level) => level - levels[0])).toEqual([-6, -6.1, -6.2].map((db) => expect.closeTo(db, 6) as number));
  });

  it('that pass other processors are told as the most that they can come to', () => {
    const plain = brief(ladder(16));
    const { total, exact, uncounted } = brief(carryOut(ladder(16), { do: 'inserts.add', id: 'c', channelId: 'r3', type: 'comp' }));
    expect([exact, uncounted]).toEqual([false, ['compressor on R3']]);
    expect(total.power).toBeCloseTo(plain.total.power, 6);
  });
});
