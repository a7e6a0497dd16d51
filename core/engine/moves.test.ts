// Every command that there is, given while a tone plays through a desk with latency, an echo that feeds back, a reverb, a compressor and
// a limiter: nothing it does makes a step that the tone itself would not make.
import { describe, expect, it } from 'vitest';
import { examples } from '../../tests/oracle/examples.ts';
import { exampleDesk, LONG, playingDesk, recordings } from '../../tests/oracle/playing.ts';
import { carryOut, rig, RATE, trackCommand } from '../../tests/oracle/rig.ts';
import { commands, type Command, type CommandName } from '../commands/index.ts';
import { planBatch } from '../commands/plan.ts';
import { commit } from '../session/changes.ts';
import type { Engine } from './engine.ts';
import { PERIOD } from '../kernel/period.ts';

const [{ media }] = (trackCommand([{ id: 'new', frames: LONG }]) as unknown as { tracks: { media: object }[] }).tracks;
const arrives = (id: string) => ({ id, name: id, media }) as never;

/** What is done while it plays; of several, one after another. `before` is done before it begins to play. */
const TRIED: { readonly [N in CommandName]?: readonly { readonly before?: readonly Command[]; readonly act: readonly Command[] }[] } = {
  'tracks.add': [
    { act: [{ do: 'tracks.add', tracks: [arrives('new')] }] },
    { act: [{ do: 'tracks.add', tracks: [arrives('new')], outputId: 'bus' }] }
  ],
  'buses.add': [
    { act: [{ do: 'buses.add', id: 'x', name: 'X', members: ['a', 'b'] }] },
    { act: [{ do: 'buses.add', id: 'x', name: 'X', members: ['c'] }] }
  ],
  'buses.insert': [
    { act: [{ do: 'buses.insert', id: 'x', name: 'X', into: 'bus' }] },
    { act: [{ do: 'buses.insert', id: 'x', name: 'X', into: 'mix' }] }
  ],
  'buses.dissolve': [{ act: [{ do: 'buses.dissolve', ids: ['bus'], gain: 'drop' }] }],
  'chain.add': [{ act: [{ do: 'chain.add', id: 'x', name: 'X' }] }],
  'returns.add': [
    {
      act: [
        { do: 'returns.add', id: 'x', name: 'X', sources: ['a'], effect: 'delay' },
        { do: 'sends.set', sends: [{ source: 'a', target: 'x', level: 0 }] }
      ]
    }
  ],
  'returns.parallel': [
    {
      act: [
        { do: 'returns.parallel', id: 'x', name: 'X', sources: ['a'] },
        { do: 'faders.set', levels: [{ id: 'x', level: -6 }] }
      ]
    }
  ],
  'returns.drive': [{ act: [{ do: 'returns.drive', id: 'echo', by: 4 }] }],
  'returns.twin': [{ act: [{ do: 'returns.twin', id: 'echo', twins: [{ id: 'x', bus: 'bus' }] }] }],
  'returns.merge': [
    {
      before: [
        { do: 'returns.add', id: 'x', name: 'X', effect: 'delay' },
        { do: 'inserts.set', id: 'x:delay', values: { 't1.time': 230, feedback: 60 } },
        { do: 'sends.set', sends: [{ source: 'b', target: 'x', level: -3 }] }
      ],
      act: [{ do: 'returns.merge', ids: ['echo', 'x'] }]
    }
  ],
  'columns.order': [{ act: [{ do: 'columns.order', ids: ['room', 'echo'] }] }],
  'columns.hide': [{ act: [{ do: 'columns.hide', ids: ['room'], on: true }] }],
  'cues.add': [{ act: [{ do: 'cues.add', id: 'x', name: 'X', from: 'mix' }] }],
  'cues.share': [{ act: [{ do: 'cues.share', id: 'cue', token: 'a-token-of-some-length' }] }],
  'cues.unshare': [{ act: [{ do: 'cues.unshare', ids: ['cue'] }] }],
  'clicks.add': [{ act: [{ do: 'clicks.add', id: 'x', name: 'X' }] }],
  'keys.add': [{ act: [{ do: 'keys.add', id: 'x', name: 'X' }] }],
  'patterns.set': [
    {
      act: [
        { do: 'patterns.set', id: 'key', pattern: { of: 'pulse', every: 0.5, accentDb: 0, levelDb: -6, length: 20, decay: 80 } as never }
      ]
    }
  ],
  'channels.remove': [
    { act: [{ do: 'channels.remove', ids: ['c'] }] },
    { act: [{ do: 'channels.remove', ids: ['bus'] }] },
    { act: [{ do: 'channels.remove', ids: ['echo'] }] },
    { act: [{ do: 'channels.remove', ids: ['a', 'd'] }] }
  ],
  'channels.duplicate': [
    { act: [{ do: 'channels.duplicate', ids: ['a'], as: 'x' }] },
    { act: [{ do: 'channels.duplicate', ids: ['bus'], as: 'x', branch: true }] }
  ],
  'channels.rename': [{ act: [{ do: 'channels.rename', names: [{ id: 'a', name: 'A' }] }] }],
  'channels.colour': [{ act: [{ do: 'channels.colour', ids: ['a'], colour: 3 }] }],
  'colours.set': [{ act: [{ do: 'colours.set', colours: [{ id: 'a', colour: 3 }] }] }],
  'channels.move': [{ act: [{ do: 'channels.move', ids: ['a'] }] }],
  'channels.order': [{ act: [{ do: 'channels.order', ids: ['b', 'a'] }] }],
  'channels.route': [
    { act: [{ do: 'channels.route', ids: ['a'], to: 'mix' }] },
    {
      act: [
        { do: 'channels.route', ids: ['c'], to: 'bus' },
        { do: 'channels.route', ids: ['c'], to: 'mix' }
      ]
    },
    { act: [{ do: 'channels.route', ids: ['bus'], to: 'last' }] },
    { act: [{ do: 'channels.route', ids: ['a'], to: 'echo' }] },
    { act: [{ do: 'channels.route', ids: ['a'], to: null }] },
    { act: [{ do: 'channels.route', ids: ['room'], to: 'echo' }] }
  ],
  'sends.set': [
    { act: [{ do: 'sends.set', sends: [{ source: 'c', target: 'room', level: -3 }] }] },
    {
      act: [
        { do: 'sends.set', sends: [{ source: 'a', target: 'echo', mono: true }] },
        { do: 'sends.set', sends: [{ source: 'a', target: 'echo', mono: false, pan: 40 }] }
      ]
    },
    {
      act: [
        { do: 'sends.set', sends: [{ source: 'b', target: 'idle', level: 0, tap: 'input' }] },
        { do: 'sends.set', sends: [{ source: 'b', target: 'idle', on: false }] }
      ]
    },
    { act: [{ do: 'sends.set', sends: [{ source: 'bus', target: 'echo', level: -10 }] }] }
  ],
  'sends.tap': [
    { act: [{ do: 'sends.tap', sends: [{ source: 'a', target: 'echo' }], tap: 'input' }] },
    { act: [{ do: 'sends.tap', sends: [{ source: 'c', target: 'echo' }], tap: 'post', keep: true }] }
  ],
  'sends.remove': [{ act: [{ do: 'sends.remove', sources: ['a', 'c'], target: 'echo' }] }],
  'faders.set': [
    {
      act: [
        {
          do: 'faders.set',
          levels: [
            { id: 'a', level: -Infinity },
            { id: 'echo', level: -10 }
          ]
        },
        { do: 'faders.set', levels: [{ id: 'a', level: 0 }] }
      ]
    }
  ],
  'trims.set': [{ act: [{ do: 'trims.set', levels: [{ id: 'a', level: -12 }] }] }],
  'polarities.set': [{ act: [{ do: 'polarities.set', ids: ['a'], on: true }] }],
  'pans.set': [
    {
      act: [
        { do: 'pans.set', pans: [{ id: 'b', pan: -40, right: 60 }] },
        { do: 'pans.set', pans: [{ id: 'b', spread: 30 }] },
        { do: 'pans.set', pans: [{ id: 'a', pan: -100 }] }
      ]
    },
    {
      before: [{ do: 'inserts.add', id: 'x', channelId: 'a', type: 'delay' }],
      act: [
        { do: 'pans.set', pans: [{ id: 'a', pan: -90, right: 40 }] },
        { do: 'pans.set', pans: [{ id: 'a', right: null, spread: 40 }] }
      ]
    }
  ],
  'widths.set': [
    {
      act: [
        { do: 'widths.set', ids: ['mono'], width: 2 },
        { do: 'widths.set', ids: ['mono'], width: 1 }
      ]
    },
    {
      act: [
        { do: 'widths.set', ids: ['room', 'echo'], width: 1 },
        { do: 'widths.set', ids: ['room', 'echo'], width: 2 }
      ]
    },
    {
      act: [
        { do: 'widths.set', ids: ['last'], width: 1 },
        { do: 'widths.set', ids: ['last'], width: 2 }
      ]
    }
  ],
  'tracks.key': [{ act: [{ do: 'tracks.key', ids: ['d'], on: true }] }],
  'mutes.set': [
    {
      act: [
        { do: 'mutes.set', ids: ['bus', 'echo'], on: true },
        { do: 'mutes.set', ids: ['bus', 'echo'], on: false }
      ]
    }
  ],
  'solos.set': [{ act: [{ do: 'solos.set', ids: ['a'], on: true }] }, { act: [{ do: 'solos.set', ids: ['echo'], on: true }] }],
  'solos.clear': [{ before: [{ do: 'solos.set', ids: ['a'], on: true }], act: [{ do: 'solos.clear' }] }],
  'solos.recall': [{ before: [{ do: 'solos.set', ids: ['a'], on: true }, { do: 'solos.clear' }], act: [{ do: 'solos.recall' }] }],
  'safes.set': [{ before: [{ do: 'solos.set', ids: ['a'], on: true }], act: [{ do: 'safes.set', ids: ['echo'], on: false }] }],
  'hides.set': [{ act: [{ do: 'hides.set', ids: ['a'], on: true }] }],
  'pins.set': [{ act: [{ do: 'pins.set', ids: ['a'], on: true }] }],
  'rests.set': [
    {
      act: [
        { do: 'rests.set', ids: ['a'], on: true },
        { do: 'rests.set', ids: ['a'], on: false }
      ]
    },
    { before: [{ do: 'rests.set', ids: ['bus', 'echo'], on: true }], act: [{ do: 'rests.set', ids: ['bus', 'echo'], on: false }] }
  ],
  'roles.set': [{ act: [{ do: 'roles.set', ids: ['a'], role: 'bass' }] }],
  'dividers.set': [{ act: [{ do: 'dividers.set', id: 'x', caption: 'X' }] }],
  'dividers.remove': [{ before: [{ do: 'dividers.set', id: 'x', caption: 'X' }], act: [{ do: 'dividers.remove', ids: ['x'] }] }],
  'showings.save': [{ act: [{ do: 'showings.save', id: 's', number: 1, name: 'S', ids: ['a'] }] }],
  'showings.remove': [
    { before: [{ do: 'showings.save', id: 's', number: 1, name: 'S', ids: ['a'] }], act: [{ do: 'showings.remove', ids: ['s'] }] }
  ],
  'showings.recall': [
    { before: [{ do: 'showings.save', id: 's', number: 1, name: 'S', ids: ['a'] }], act: [{ do: 'showings.recall', id: 's' }] }
  ],
  'tracks.fill': [
    {
      before: [
        { do: 'clicks.add', id: 'new', name: 'New' },
        { do: 'patterns.set', id: 'new', pattern: null },
        { do: 'channels.route', ids: ['new'], to: 'bus' }
      ],
      act: [{ do: 'tracks.fill', tracks: [{ id: 'new', media } as never] }]
    }
  ],
  'tracks.pair': [
    {
      before: [
        { do: 'sends.remove', sources: ['a', 'c'], target: 'echo' },
        { do: 'inserts.remove', id: 'way' },
        { do: 'inserts.remove', id: 'eq' },
        { do: 'channels.route', ids: ['a'], to: 'mix' }
      ],
      act: [{ do: 'tracks.pair', left: 'a', right: 'c' }]
    }
  ],
  'tracks.split': [{ act: [{ do: 'tracks.split', id: 'b', right: 'x' }] }],
  'inserts.add': [
    ...(['eq', 'comp', 'limiter', 'trim', 'outside'] as const).map((type) => ({
      act: [{ do: 'inserts.add' as const, id: 'x', channelId: 'a', type }]
    })),
    ...(['delay', 'reverb'] as const).flatMap((type) =>
      ['bus', 'a', 'c'].map((channelId) => ({ act: [{ do: 'inserts.add' as const, id: 'x', channelId, type }] }))
    ),
    { act: [{ do: 'inserts.add', id: 'x', channelId: 'last', type: 'delay' }] }
  ],
  'inserts.set': [
    {
      act: [
        { do: 'inserts.set', id: 'echo:delay', values: { 't1.time': 310 } },
        { do: 'inserts.set', id: 'echo:delay', values: { feedback: 20, mode: 2 } }
      ]
    },
    {
      act: [
        { do: 'inserts.set', id: 'echo:delay', values: { taps: 3, 't2.time': 120, 't3.time': 400, apart: 20 } },
        { do: 'inserts.set', id: 'echo:delay', values: { mode: 1, 't1.note': 6 } }
      ]
    },
    {
      act: [
        { do: 'inserts.set', id: 'room:reverb', values: { size: 60, decay: 3, mix: 70 } },
        { do: 'inserts.set', id: 'room:reverb', values: { type: 2, preDelay: 90 } }
      ]
    },
    {
      act: [
        { do: 'inserts.set', id: 'way', values: { latency: 400 } },
        { do: 'inserts.set', id: 'way', values: { latency: 3000, unit: 1 } },
        { do: 'inserts.set', id: 'way', values: { unit: 2, drive: 6 } }
      ]
    },
    {
      act: [
        { do: 'inserts.set', id: 'eq', values: { 'b3.on': 1, 'b3.gain': 9, 'b3.freq': 120, 'b1.on': 1 } },
        { do: 'inserts.set', id: 'eq', values: { 'b3.type': 3, 'b1.slope': 4, 'b5.on': 1 } }
      ]
    },
    {
      act: [
        { do: 'inserts.set', id: 'comp', values: { threshold: -20, character: 2, detector: 1, makeUp: 4 } },
        { do: 'inserts.set', id: 'comp', values: { keyHigh: 200, auto: 1 } }
      ]
    },
    {
      act: [
        { do: 'inserts.set', id: 'trim', values: { delay: 700, gain: -3 } },
        { do: 'inserts.set', id: 'trim', values: { turnL: 1, turnR: 1 } }
      ]
    },
    { act: [{ do: 'inserts.set', id: 'lim', values: { ceiling: -3, drive: 2 } }] }
  ],
  'inserts.bypass': [
    {
      act: [
        { do: 'inserts.bypass', ids: ['comp', 'way', 'lim', 'echo:delay', 'room:reverb', 'trim'], on: true },
        { do: 'inserts.bypass', ids: ['comp', 'way', 'echo:delay'], on: false }
      ]
    }
  ],
  'inserts.key': [
    {
      act: [
        { do: 'inserts.key', id: 'comp', source: 'c', tap: 'pre' },
        { do: 'inserts.key', id: 'comp', source: 'key' }
      ]
    }
  ],
  'inserts.copy': [
    { act: [{ do: 'inserts.copy', id: 'way', to: ['a', 'bus'], as: 'x' }] },
    { act: [{ do: 'inserts.copy', id: 'room:reverb', to: ['echo', 'a', 'mono'], as: 'x' }] }
  ],
  'inserts.move': [{ before: [{ do: 'inserts.add', id: 'x', channelId: 'mono', type: 'eq' }], act: [{ do: 'inserts.move', id: 'trim' }] }],
  'inserts.remove': [
    { act: [{ do: 'inserts.remove', id: 'way' }] },
    { act: [{ do: 'inserts.remove', id: 'echo:delay' }] },
    {
      before: [
        { do: 'inserts.add', id: 'x', channelId: 'a', type: 'delay' },
        { do: 'pans.set', pans: [{ id: 'a', pan: -90, right: 40, spread: 30 }] }
      ],
      act: [{ do: 'inserts.remove', id: 'x' }]
    },
    {
      act: [
        { do: 'inserts.remove', id: 'lim' },
        { do: 'inserts.remove', id: 'comp' }
      ]
    }
  ],
  'settings.set': [
    {
      act: [
        { do: 'settings.set', bpm: 90, panLaw: -6 },
        { do: 'settings.set', muteClosesPre: false, beatsPerBar: 3 }
      ]
    },
    { before: [{ do: 'solos.set', ids: ['a'], on: true }], act: [{ do: 'settings.set', soloDimDb: -12 }] }
  ]
};

type Heard = { readonly last: Float32Array };
const SIDES = [0, 1] as const;
/** Plays so many periods; the steepest step of either side, across periods too. The click in the cue is steps by nature. */
function listen(engine: Engine, periods: number, heard: Heard): number {
  let most = 0;
  for (let n = 0; n < periods; n++) {
    engine.period();
    for (const side of SIDES) {
      const out = engine.out(side);
      for (const x of out) {
        most = Math.max(most, Math.abs(x - heard.last[side]));
        heard.last[side] = x;
      }
    }
  }
  return most;
}

/** Longer than any fade, latency or delay here, and two rounds of the echo. */
const SETTLED = Math.ceil((0.6 * RATE) / PERIOD);
const MOMENT = Math.ceil((0.1 * RATE) / PERIOD);

describe('while a tone plays', () => {
  for (const name of Object.keys(commands) as CommandName[])
    it(`${name} makes no step that the tone would not make`, () => {
      // What is not tried in detail is tried as its docstring says.
      for (const { before = [], act } of TRIED[name] ?? [{ act: [examples.get(name)!] }]) {
        const session = carryOut(TRIED[name] ? playingDesk() : exampleDesk(), ...before);
        const engine = rig(session, recordings);
        const heard: Heard = { last: new Float32Array(2) };
        listen(engine, SETTLED, heard);
        let own = listen(engine, MOMENT, heard);
        for (const [i, command] of act.entries()) {
          const planned = planBatch(session, [command]);
          if (!planned.ok) throw new Error(`${JSON.stringify(command)}: ${planned.error.message}`);
          // In the middle of a chunk: nothing may wait for the next one.
          listen(engine, 1 + (i % 3), heard);
          commit(session, planned.value.changes);
          engine.update(planned.value.changes);
          const most = listen(engine, SETTLED, heard);
          const after = listen(engine, MOMENT, heard);
          expect(most, JSON.stringify(command)).toBeLessThan(1.5 * Math.max(own, after) + 1e-4);
          own = after;
        }
      }
    });
});
