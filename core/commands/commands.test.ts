// The command language: what each command promises.
import { describe, expect, it } from 'vitest';
import { carryOut, emptyDesk, trackCommand } from '../../tests/oracle/rig.ts';
import { treeOf } from '../routing/graph.ts';
import { applies, commit } from '../session/changes.ts';
import type { Session } from '../session/entities.ts';
import { outlook, record, step, type Entry } from '../session/history.ts';
import { encodeSession } from '../session/tables.ts';
import type { Command } from './index.ts';
import { plan, planBatch } from './plan.ts';

const desk = () =>
  carryOut(
    emptyDesk(),
    trackCommand([{ id: 'a' }, { id: 'b', width: 2 }, { id: 'c' }, { id: 'd' }]),
    { do: 'buses.add', id: 'bus', name: 'BUS', members: ['b', 'c'] },
    { do: 'returns.add', id: 'ret', name: 'Room' }
  );
const names = (session: Session) => treeOf(session).mix.map(({ channel, depth }) => `${' '.repeat(depth)}${channel.id}`);
const refusal = (session: Session, command: Command) => {
  const planned = plan(session, command);
  return planned.ok ? null : planned.error;
};

describe('commands', () => {
  it('makes a bus before its first member without touching levels', () => {
    expect(names(desk())).toEqual(['mix', ' a', ' bus', '  b', '  c', ' d', ' ret']);
    const nested = carryOut(desk(), { do: 'buses.add', id: 'inner', name: 'INNER', members: ['c'] });
    expect(names(nested)).toEqual(['mix', ' a', ' bus', '  b', '  inner', '   c', ' d', ' ret']);
  });

  it('bears sends at −∞, returns solo-safe with a reverb all wet', () => {
    const session = carryOut(desk(), { do: 'sends.set', sends: [{ source: 'a', target: 'ret' }] });
    expect(session.send.get('a\nret')).toEqual({
      sourceId: 'a',
      targetId: 'ret',
      levelDb: -Infinity,
      lastDb: null,
      tap: 'post',
      on: true,
      mono: false,
      pan: null
    });
    expect(session.channel.get('ret')!.soloSafe).toBe(true);
    expect(session.insert.get('ret:reverb')).toMatchObject({ type: 'reverb', params: {} });
  });

  it('refuses loops and names them station by station', () => {
    const session = carryOut(desk(), { do: 'channels.route', ids: ['ret'], to: 'bus' });
    expect(refusal(session, { do: 'sends.set', sends: [{ source: 'ret', target: 'ret' }] })?.data).toEqual({ stations: ['Room', 'Room'] });
    expect(refusal(session, { do: 'sends.set', sends: [{ source: 'bus', target: 'ret' }] })?.message).toBe(
      'This would feed back: BUS → Room → BUS. Choose another destination.'
    );
    expect(refusal(session, { do: 'channels.route', ids: ['bus'], to: 'ret' })?.code).toBe('loop');
    // Two moves of one batch may each be harmless and close a loop together.
    carryOut(session, { do: 'channels.route', ids: ['ret'], to: 'mix' });
    expect(
      planBatch(session, [
        { do: 'channels.route', ids: ['ret'], to: 'bus' },
        { do: 'sends.set', sends: [{ source: 'bus', target: 'ret' }] }
      ])
    ).toMatchObject({ ok: false, error: { code: 'loop' } });
  });

  it('clamps levels and pans, and takes −∞ as "-inf"', () => {
    const wire = JSON.parse(
      '{"do":"faders.set","levels":[{"id":"a","level":"-inf"},{"id":"b","level":40},{"id":"c","level":-200}]}'
    ) as Command;
    const session = carryOut(desk(), wire, { do: 'pans.set', pans: [{ id: 'a', pan: -300 }] });
    expect(['a', 'b', 'c'].map((id) => session.channel.get(id)!.faderDb)).toEqual([-Infinity, 12, -Infinity]);
    expect(session.channel.get('a')!.pan).toBe(-100);
  });

  it.each<[Command, string]>([
    [{ do: 'channels.remove', ids: ['mix'] }, 'mix-bus'],
    [{ do: 'channels.route', ids: ['a'], to: 'd' }, 'not-a-bus'],
    [{ do: 'channels.route', ids: ['gone'], to: 'bus' }, 'not-found'],
    [{ do: 'sends.set', sends: [{ source: 'a', target: 'b' }] }, 'not-a-return'],
    [{ do: 'channels.rename', names: [{ id: 'a', name: '' }] }, 'bad-arguments'],
    [{ do: 'faders.set', levels: [{ id: 'a', level: NaN }] }, 'bad-arguments'],
    [{ do: 'inserts.set', id: 'ret:reverb', values: { nonsense: 1 } }, 'no-parameter'],
    [{ do: 'no.such' } as unknown as Command, 'unknown-command'],
    [{ do: 'constructor' } as unknown as Command, 'unknown-command']
  ])('refuses %j as %s', (command, code) => {
    const session = desk();
    const before = encodeSession(session);
    expect(refusal(session, command)?.code).toBe(code);
    expect(encodeSession(session)).toEqual(before);
  });

  it('removes a bus with all that hangs on it and moves its members up, or where one says', () => {
    const up = carryOut(desk(), { do: 'sends.set', sends: [{ source: 'b', target: 'bus' }] } as Command);
    carryOut(up, { do: 'channels.remove', ids: ['bus'] });
    expect(names(up)).toEqual(['mix', ' a', ' b', ' c', ' d', ' ret']);
    expect(up.send.size).toBe(0);
    const away = carryOut(desk(), { do: 'channels.remove', ids: ['bus'], membersTo: null });
    expect(treeOf(away).nowhere.map(({ channel }) => channel.id)).toEqual(['b', 'c']);
    const track = carryOut(desk(), { do: 'channels.remove', ids: ['a'] });
    expect([track.clip.size, track.media.size]).toEqual([3, 3]);
  });

  it('orders rows before others, many times without running out of room', () => {
    const session = desk();
    for (let i = 0; i < 200; i++) carryOut(session, { do: 'channels.move', ids: [i % 2 ? 'd' : 'a'], before: i % 2 ? 'a' : 'd' });
    expect(names(session)).toEqual(['mix', ' bus', '  b', '  c', ' d', ' a', ' ret']);
    carryOut(session, { do: 'channels.move', ids: ['bus', 'ret'], before: null });
    expect(names(session)).toEqual(['mix', ' d', ' a', ' bus', '  b', '  c', ' ret']);
  });
});

describe('taking stock', () => {
  it('marks what a person sets, so that no automatic command changes it', () => {
    const session = carryOut(
      desk(),
      { do: 'channels.rename', names: [{ id: 'a', name: 'Mine' }] },
      { do: 'roles.set', ids: ['b'], role: 'bass' }
    );
    expect(['a', 'b', 'c'].map((id) => session.channel.get(id)!.byHand)).toEqual(['name', 'role output', 'output']);
    carryOut(
      session,
      { do: 'channels.rename', names: ['a', 'c'].map((id) => ({ id, name: 'Theirs' })), auto: true },
      { do: 'roles.set', ids: ['a', 'b'], role: 'drum', auto: true },
      { do: 'channels.route', ids: ['c', 'd'], to: null, auto: true }
    );
    expect(
      ['a', 'b', 'c', 'd'].map((id) => [session.channel.get(id)!.name, session.channel.get(id)!.role, session.channel.get(id)!.outputId])
    ).toEqual([
      ['Mine', 'drum', 'mix'],
      ['Track b', 'bass', 'bus'],
      ['Theirs', '', 'bus'],
      ['Track d', '', null]
    ]);
  });

  it('keeps dividers above the row they were set before, and sets of what is shown under one number', () => {
    const session = carryOut(
      desk(),
      { do: 'dividers.set', id: 'v', caption: 'Low', before: 'c' },
      { do: 'dividers.set', id: 'end', caption: 'End', before: null }
    );
    const [before, below] = ['b', 'c'].map((id) => session.channel.get(id)!.position);
    expect(session.divider.get('v')!.position).toBeGreaterThan(before);
    expect(session.divider.get('v')!.position).toBeLessThan(below);
    carryOut(session, { do: 'dividers.set', id: 'v', caption: 'Lower' });
    expect(session.divider.get('v')).toMatchObject({ caption: 'Lower' });
    expect(refusal(session, { do: 'dividers.set', id: 'new' })?.code).toBe('bad-arguments');

    const filter = { text: '', kind: 'bus', role: '', family: '', to: '', width: '' };
    carryOut(session, { do: 'showings.save', id: 's1', number: 2, name: 'Buses', filter }, { do: 'showings.recall', id: 's1' });
    const shown = () => [...session.channel.values()].flatMap(({ id, hidden }) => (hidden ? [] : [id]));
    expect(shown()).toEqual(['mix', 'bus']);
    carryOut(session, { do: 'showings.save', id: 's2', number: 2, name: 'These', ids: ['a'] }, { do: 'showings.recall', id: 's2' });
    expect(shown()).toEqual(['mix', 'a']);
    expect([...session.showing.keys()]).toEqual(['s2']);
    carryOut(session, { do: 'showings.recall' });
    expect(shown()).toHaveLength(session.channel.size);
    expect(refusal(session, { do: 'showings.recall', id: 's1' })?.code).toBe('not-found');
  });

  it.each<[Command, string]>([
    [{ do: 'tracks.pair', left: 'a', right: 'b' }, 'not-mono'],
    [{ do: 'tracks.pair', left: 'a', right: 'a' }, 'bad-arguments'],
    [{ do: 'tracks.split', id: 'a', right: 'x' }, 'not-stereo'],
    [{ do: 'channels.colour', ids: ['a'], colour: 12 }, 'bad-arguments'],
    [{ do: 'showings.save', id: 's', number: 1, name: 'x' }, 'bad-arguments'],
    [
      {
        do: 'tracks.fill',
        tracks: [{ id: 'a', media: (trackCommand([{ id: 'z' }]) as unknown as { tracks: { media: never }[] }).tracks[0].media }]
      },
      'filled'
    ]
  ])('refuses %j as %s', (command, code) => expect(refusal(desk(), command)?.code).toBe(code));

  it('fills a stereo track of a template with a mono recording: pins stay where an insert makes two sides of it', () => {
    const place: Command = { do: 'pans.set', pans: [{ id: 't', pan: -60, right: 100, spread: 80 }] };
    const filled = (insert?: 'reverb') => {
      const session = carryOut(emptyDesk(), trackCommand([{ id: 't', width: 2 }]), place);
      // As a template leaves it: without its recording.
      session.clip.clear();
      const { media } = (trackCommand([{ id: 'm' }]) as unknown as { tracks: { media: never }[] }).tracks[0];
      if (insert) carryOut(session, { do: 'inserts.add', id: 'x', channelId: 't', type: insert });
      return carryOut(session, { do: 'tracks.fill', tracks: [{ id: 't', media }] }).channel.get('t');
    };
    expect(filled()).toMatchObject({ width: 1, pan: 20, panRight: null, spread: 100 });
    expect(filled('reverb')).toMatchObject({ width: 1, pan: -60, panRight: 100, spread: 80 });
  });
});

describe('tracks.add', () => {
  const track = (id: string, timeReference: number | null, channels = 1) => {
    const [made] = (trackCommand([{ id, frames: 1000 }]) as { tracks: { media: { id: string; channels: number } }[] }).tracks;
    return { ...made, id, media: { ...made.media, channels }, timeReference };
  };
  const add = (session: Session, ...tracks: object[]) => carryOut(session, { do: 'tracks.add', tracks } as Command);
  const starts = (session: Session) => [...session.clip.values()].map(({ start }) => start);

  it('places recordings by their time references, counted from the first ones’ beginning', () => {
    const hour = 48000 * 3600;
    const session = add(emptyDesk(), track('a', hour + 480), track('b', hour), track('c', null));
    expect(starts(session)).toEqual([480, 0, 0]);
    expect(session.settings.get('settings')!.zero).toBe(hour);
    expect(starts(add(session, track('d', hour + 96)))).toEqual([480, 0, 0, 96]);
    // Near midnight it is a position in the session itself.
    expect(starts(add(emptyDesk(), track('e', 4800)))).toEqual([4800]);
  });

  it('takes channels out of a wide recording, and no more than it has', () => {
    const wide = { ...track('w', null, 6), channel: 4, width: 2 };
    expect([...add(emptyDesk(), wide).clip.values()][0].channel).toBe(4);
    expect(() => add(emptyDesk(), { ...wide, channel: 5 })).toThrow('has 6 channels');
  });
});

describe('history', () => {
  const entryOf = (session: Session, id: string, gesture: string | null, command: Command): Entry => {
    const planned = plan(session, command);
    if (!planned.ok) throw new Error(planned.error.message);
    commit(session, planned.value.changes);
    return { id, gesture, label: planned.value.label, changes: planned.value.changes, undone: false };
  };

  it('joins the moves of a gesture, names what comes next, and forgets what was undone before a new move', () => {
    const session = desk();
    let entries: Entry[] = [];
    for (const level of [-1, -2, -3])
      entries = record(entries, entryOf(session, `m${level}`, 'drag', { do: 'faders.set', levels: [{ id: 'a', level }] }));
    expect(entries).toHaveLength(1);
    expect(outlook(entries).undo).toEqual({ id: 'm-1', label: 'Fader of Track a to −3.0 dB' });
    expect(entries[0].changes).toEqual([{ table: 'channel', key: 'a', before: { faderDb: 0 }, after: { faderDb: -3 } }]);
    const undone = entries.map((entry) => ({ ...entry, undone: true }));
    expect(outlook(undone)).toEqual({ undo: null, redo: { id: 'm-1', label: 'Fader of Track a to −3.0 dB' } });
    expect(record(undone, entryOf(session, 'n', null, { do: 'mutes.set', ids: ['b', 'c'], on: true })).map(({ label }) => label)).toEqual([
      'Mute 2 channels'
    ]);
  });

  it('refuses to undo what was changed since', () => {
    const session = desk();
    const entry = entryOf(session, 'e', null, { do: 'faders.set', levels: [{ id: 'a', level: -5 }] });
    const back = step(session, entry);
    expect(back.ok && applies(session, back.value)).toBe(true);
    carryOut(session, { do: 'faders.set', levels: [{ id: 'a', level: -9 }] });
    expect(step(session, entry)).toMatchObject({ ok: false, error: { code: 'overtaken' } });
  });
});
