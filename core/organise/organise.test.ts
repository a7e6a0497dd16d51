// Renaming, gradients, trims, the track sheet, templates and pouring audio into them.
import fc from 'fast-check';
import Papa from 'papaparse';
import { describe, expect, it } from 'vitest';
import { act, DEMO, sessionOf } from '../../tests/oracle/heap';
import { newSession } from '../session/create';
import { matchesFilter, EVERYTHING } from '../session/filter';
import { recordedLevel } from '../session/recorded';
import { inOrder } from '../session/select';
import { defaultRules } from './defaultRules';
import { colourOf, gradient, hueOf } from '../session/hues';
import { trimsFor } from './levels';
import { pourPlan } from './pour';
import { renamed, renameDefaults, withoutShared } from './rename';
import { readSheet, SHEET_COLUMNS, writeSheet } from './sheet';

import { readTemplate, sessionFrom, writeTemplate } from './template';

const value = <T>(result: { ok: true; value: T } | { ok: false; error: { message: string } }): T => {
  if (!result.ok) throw new Error(result.error.message);
  return result.value;
};

describe('renaming by pattern', () => {
  const to = (names: string[], more: object) => renamed(names, { ...renameDefaults, ...more });
  it('finds and replaces, as text or as a pattern', () => {
    expect(value(to(['Take (1)', 'take (1) b'], { find: 'take (1)', replace: '$1' }))).toEqual(['$1', '$1 b']);
    expect(value(to(['12_Kick'], { find: '^(\\d+)_(.*)$', replace: '$2 $1', pattern: true }))).toEqual(['Kick 12']);
    expect(to(['x'], { find: '(', pattern: true })).toMatchObject({ ok: false, error: { code: 'bad-pattern' } });
    expect(to(['x'], { find: 'x' })).toMatchObject({ ok: false, error: { message: 'Nothing would be left of “x”. A name is needed.' } });
  });
  it('strips what all share, sets letters, numbers', () => {
    expect(withoutShared(['FERRY_lead vox_48k', 'FERRY_choir_48k', 'ferry_room L_48k'])).toEqual(['lead vox', 'choir', 'room L']);
    expect(withoutShared(['same', 'same'])).toEqual(['same', 'same']);
    expect(value(to(['élan vital', 'b'], { letters: 'words', number: 'after', from: 9, digits: 2 }))).toEqual(['Élan Vital 09', 'B 10']);
    expect(value(to(['x'], { letters: 'upper', number: 'before', before: 'a ' }))).toEqual(['1 a X']);
  });
  it('strips so that the rest tells names apart as before', () =>
    fc.assert(
      fc.property(fc.uniqueArray(fc.stringMatching(/^[a-c]{1,2}([ _][a-c]{1,2}){0,3}$/), { minLength: 2, maxLength: 6 }), (names) => {
        const left = withoutShared(names);
        expect(left.every(Boolean)).toBe(true);
        const plain = (list: string[]) => new Set(list.map((name) => name.replace(/[ _]+/g, ' '))).size;
        expect(plain(left)).toBe(plain(names));
      })
    ));
});

describe('gradients', () => {
  it('go in equal angles the shorter way round, and come back to the same colours', () => {
    for (let colour = 0; colour < 12; colour += 0.25) expect(colourOf(hueOf(colour))).toBeCloseTo(colour, 9);
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 11 }), fc.integer({ min: 0, max: 11 }), fc.integer({ min: 2, max: 20 }), (from, to, count) => {
        const hues = gradient(from, to, count).map(hueOf);
        const steps = hues.slice(1).map((hue, i) => ((hue - hues[i] + 540) % 360) - 180);
        for (const step of steps) expect(Math.abs(step - steps[0])).toBeLessThan(0.2);
        expect(Math.abs(steps.reduce((sum, step) => sum + step, 0))).toBeLessThanOrEqual(180.1);
        expect(gradient(from, to, count).every((colour) => colour >= 0 && colour < 12)).toBe(true);
      })
    );
  });
});

it('trims to a common peak or loudness, and names what cannot be measured', () => {
  const session = sessionOf(['a.wav', 'b stereo.wav', 'c.wav']);
  session.media.set('m0', { ...session.media.get('m0')!, peakDb: -6, loudness: [-20] });
  session.media.set('m1', { ...session.media.get('m1')!, peakDb: -12, loudness: [-30, -31, -27.5] });
  session.media.set('m2', { ...session.media.get('m2')!, peakDb: -Infinity, loudness: [null] });
  expect(recordedLevel(session, 't2')).toEqual({ peakDb: -12, lufs: -27.5 });
  const tracks = inOrder(session).filter(({ kind }) => kind === 'track');
  expect(trimsFor(session, tracks, { loudness: -24 })).toEqual({
    levels: [
      { id: 't1', level: -4 },
      { id: 't2', level: 3.5 }
    ],
    unmeasured: ['c']
  });
  expect(trimsFor(session, tracks, { peak: -9 }).levels.map(({ level }) => level)).toEqual([-3, 3]);
  act(session, { do: 'trims.set', levels: [{ id: 't1', level: 2 }] });
  expect(
    trimsFor(
      session,
      tracks.slice(0, 1).map(({ id }) => session.channel.get(id)!),
      { by: -3 }
    ).levels
  ).toEqual([{ id: 't1', level: -1 }]);
});

it('filters rows by words in names, files, roles, destinations, and by the rest exactly', () => {
  const session = sessionOf(DEMO);
  act(
    session,
    { do: 'buses.add', id: 'b', name: 'WINDS', members: ['t14'] },
    { do: 'channels.rename', names: [{ id: 't15', name: 'Bone' }] }
  );
  act(session, { do: 'roles.set', ids: ['t14', 't15'], role: 'brass' });
  const found = (more: object) =>
    inOrder(session)
      .filter((channel) => matchesFilter(session, channel, { ...EVERYTHING, ...more }))
      .map(({ id }) => id);
  expect(found({ text: 'winds' })).toEqual(['b', 't14']);
  expect(found({ text: 'TBN' })).toEqual(['t15']);
  expect(found({ role: 'brass', to: 'b' })).toEqual(['t14']);
  expect(found({ width: '2', kind: 'track' })).toEqual(['t24']);
  expect(found({ role: 'none', kind: 'bus' })).toEqual(['b']);
  session.media.set('m3', { ...session.media.get('m3')!, peakDb: -3 });
  session.clip.set('t4:1', { ...session.clip.get('t4:1')!, length: 96000 });
  expect(found({ text: 'peak>-6' })).toEqual(['t4']);
  expect(found({ text: 'length>=2 take' })).toEqual(['t4']);
  expect(found({ text: 'rate=44.1' })).toEqual([]);
  expect(found({ text: 'channels=2', kind: 'track' })).toEqual(['t24']);
  expect(found({ text: 'bits=24 surdo' })).toEqual(['t2', 't3']);
});

describe('the track sheet', () => {
  const sheet = () => {
    const session = sessionOf(['=cmd.wav', 'b "two", x.wav', 'c.wav']);
    act(session, { do: 'buses.add', id: 'bus', name: 'BUS', members: [] });
    return session;
  };
  const changed = (text: string, change: (rows: Record<string, string>[]) => Record<string, string>[]) =>
    Papa.unparse(change(Papa.parse<Record<string, string>>(text, { header: true, skipEmptyLines: true }).data));

  it('is CSV of RFC 4180 that brings back nothing where nothing was changed', () => {
    const session = sheet();
    const text = writeSheet(session);
    expect(text.split('\r\n')[0]).toBe(SHEET_COLUMNS.join(','));
    expect(text).toContain(`'=cmd`);
    expect(text).toContain('"b ""two"", x"');
    expect(value(readSheet(session, text))).toMatchObject({ changes: [], commands: [], missing: [], notes: [] });
    expect(value(readSheet(session, `\uFEFF${text}`)).changes).toEqual([]);
  });

  it('has nothing in it that a spreadsheet would carry out, and gives every name back to the letter', () => {
    const formula = ['-1+cmd|calc', '=1', '+1', '@sum', "'-1", "''x", '＝1+1', '-inf', '-5', "'tis", '5'];
    const session = sessionOf(formula.map((_, i) => `${i}.wav`));
    act(session, { do: 'channels.rename', names: formula.map((name, i) => ({ id: `t${i + 1}`, name })) });
    const text = writeSheet(session);
    expect(value(readSheet(session, text)).changes).toEqual([]);
    for (const { name } of Papa.parse<{ name: string }>(text, { header: true, skipEmptyLines: true }).data)
      expect(name).toMatch(/^([^=+\-@\t\r＝＋－＠].*|-?\d+(\.\d+)?|-inf)$/);
  });

  it('changes what it should, in one batch, and says what it cannot take', () => {
    const session = sheet();
    const text = changed(writeSheet(session), (rows) =>
      rows
        .filter(({ id }) => id !== 't3')
        .map((row) =>
          row.id === 't1'
            ? { ...row, name: 'Kick', role: 'drum', to: 'bus', trim_db: '-inf', pan: '-30', resting: 'yes', file: 'other.wav' }
            : row.id === 't2'
              ? { ...row, fader_db: '99', to: 'MOON' }
              : row
        )
        .reverse()
    );
    const plan = value(readSheet(session, text));
    expect(plan.missing).toEqual(['c']);
    expect(plan.notes).toEqual([
      'Line 3, b "two", x: no bus is called “MOON”.',
      'Line 3, b "two", x: “99” is no fader db. It is dB up to 12, or -inf.',
      'Line 4, =cmd: file cannot be changed in a sheet; it stays as it is.'
    ]);
    act(session, ...plan.commands);
    expect(session.channel.get('t1')).toMatchObject({
      name: 'Kick',
      role: 'drum',
      outputId: 'bus',
      trimDb: -Infinity,
      pan: -30,
      resting: true
    });
    expect(inOrder(session).map(({ id }) => id)).toEqual(['bus', 't2', 't1', 't3', 'mix']);
  });

  it('puts rows into VCAs and link groups by name, and leaves alone what is linked', () => {
    const session = sheet();
    act(
      session,
      { do: 'vcas.add', id: 'v', name: 'ALL; of it', members: ['t1', 't2'] },
      { do: 'vcas.add', id: 'w', name: 'OVER', members: ['v'] },
      { do: 'links.add', id: 'l', name: 'Two', badge: 'two', members: ['t1', 't2'], attributes: ['level', 'pan'] }
    );
    expect(value(readSheet(session, writeSheet(session))).changes).toEqual([]);
    const text = changed(writeSheet(session), (rows) =>
      rows.map((row) => {
        if (row.id === 't1') return { ...row, vca: 'over', links: '', fader_db: '-4' };
        if (row.id === 't3') return { ...row, vca: 'ALL, of it; OVER', links: 'two' };
        return row.id === 'w' ? { ...row, vca: 'ALL, of it' } : row.id === 't2' ? { ...row, links: 'Three', pan: '20' } : row;
      })
    );
    const plan = value(readSheet(session, text));
    expect(plan.notes.map((note) => note.replace(/^Line \d+, /, ''))).toEqual([
      'b "two", x: no link group is called “Three”.',
      'OVER: it would hold itself by ALL; of it.'
    ]);
    act(session, ...plan.commands);
    expect([...session.vcaMember.keys()].sort()).toEqual(['v\nt2', 'v\nt3', 'w\nt1', 'w\nt3', 'w\nv']);
    expect([...session.linkMember.keys()].sort()).toEqual(['l\nt2', 'l\nt3']);
    expect(['t1', 't2', 't3'].map((id) => [session.channel.get(id)!.faderDb, session.channel.get(id)!.pan])).toEqual([
      [-4, 0],
      [0, 20],
      [0, 0]
    ]);
  });

  it.each([
    ['id,name\nx9,Kick\n', 'Line 2: no channel of this session has the id “x9”'],
    ['id,name\nt1,a\nt1,b\n', 'Line 3: =cmd is in the sheet twice, first in line 2'],
    ['name\nKick\n', 'no column “id”'],
    ['id,name\nt1,"open\n', 'Line 2 of the sheet']
  ])('%j is refused', (text, said) => {
    expect(readSheet(sheet(), text)).toMatchObject({ ok: false, error: { message: expect.stringContaining(said) as string } });
  });
});

describe('templates', () => {
  const band = () => {
    const session = sessionOf(['Surdo low.wav', 'Trumpet 1.wav', 'Trumpet 2.wav', 'Lead voice.wav', 'Oboe.wav']);
    act(
      session,
      { do: 'buses.add', id: 'brass', name: 'BRASS', members: ['t2', 't3'] },
      { do: 'roles.set', ids: ['t2', 't3'], role: 'brass' }
    );
    act(session, { do: 'returns.add', id: 'shed', name: 'Shed', sources: ['t4'] }, { do: 'roles.set', ids: ['t4'], role: 'voice' });
    act(session, { do: 'solos.set', ids: ['t1'], on: true });
    act(
      session,
      { do: 'vcas.add', id: 'v', name: 'HORNS', members: ['t2', 't3'] },
      { do: 'links.add', id: 'l', name: 'Horns', badge: 'horn', members: ['t2', 't3'], attributes: ['level'] }
    );
    return session;
  };
  const written = () => writeTemplate({ name: 'Band', session: band(), rules: defaultRules });

  it('keep lanes where they are asked for, at the same times', () => {
    const session = band();
    act(
      session,
      { do: 'lanes.add', id: 'ride', channelId: 't2', of: 'fader' },
      { do: 'points.set', lane: 'ride', points: [{ at: 48_000, value: -6 }] }
    );
    const made = (lanes: boolean) =>
      sessionFrom(value(readTemplate(writeTemplate({ name: 'Band', session, rules: null, lanes }))), { name: 'Next', rate: 44100 });
    expect(made(false).lane.size).toBe(0);
    expect([...made(true).point.values()]).toEqual([{ laneId: 'ride', at: 44_100, value: -6, shape: 'linear' }]);
  });

  it('keep the structure, not the recordings, and come back the same', () => {
    const template = value(readTemplate(written()));
    expect(template.name).toBe('Band');
    expect(template.rules).toEqual(defaultRules);
    const session = sessionFrom(template, { name: 'Next', rate: 44100 });
    expect([session.clip.size, session.media.size, session.send.size, session.insert.size]).toEqual([0, 0, 1, 1]);
    expect(session.settings.get('settings')).toMatchObject({ name: 'Next', rate: 44100 });
    expect(session.channel.get('t1')).toMatchObject({ name: 'Surdo low', solo: false });
    expect(session.channel.get('t2')).toMatchObject({ outputId: 'brass', role: 'brass' });
    expect([session.vcaMember.size, session.linkMember.size, session.link.get('l')!.name]).toEqual([2, 2, 'Horns']);
  });

  it('of other kinds, of later versions, with unknown effects or with recordings are refused in words', () => {
    const text = written();
    const said = (given: string) => {
      const read = readTemplate(given);
      return read.ok ? '' : read.error.message;
    };
    expect(said('{')).toContain('cannot be read: ');
    expect(said('{}')).toContain('not an Isotaxis template');
    expect(said(text.replace('"version": 1', '"version": 9'))).toContain('newer');
    expect(said(text.replace('"type": "reverb"', '"type": "granulator"'))).toContain('“granulator” on Shed');
    expect(said(text.replace('"words"', '"wordz"'))).toContain('rules');
  });

  it('take audio by name and role; the rest is told, and done with as wished', () => {
    const poured = (empties: 'rest' | 'drop', chosen = {}) => {
      const session = sessionFrom(value(readTemplate(written())), { name: 'Next', rate: 48000 });
      const media = (name: string, i: number) => ({
        ...sessionOf([name]).media.get('m0')!,
        id: `p${i}`,
        sha256: String(i).padStart(64, 'a')
      });
      const tracks = ['ldvox_t7.wav', 'TPT2-final2.wav', 'TPT1-final.wav', 'AUD_0003_surdo.wav', 'Banjo.wav'].map((name, i) => ({
        id: `new${i}`,
        name: name.replace('.wav', ''),
        colour: 0,
        media: media(name, i),
        timeReference: null
      }));
      const plan = pourPlan(session, tracks, { book: defaultRules, chosen, empties, start: () => 7 });
      act(session, ...plan.commands);
      return { session, plan };
    };
    const { session, plan } = poured('rest');
    expect(plan.files.map(({ into }) => into)).toEqual(['t4', 't3', 't2', 't1', null]);
    expect(plan.empty).toEqual(['t5']);
    expect(session.channel.get('t5')!.resting).toBe(true);
    expect(session.clip.get('t3:1')).toMatchObject({ mediaId: 'p1', start: 7 });
    expect(session.channel.get('new4')).toMatchObject({ name: 'Banjo', outputId: 'mix' });
    const other = poured('drop', { 0: 't5', 1: '' });
    expect(other.plan.files.map(({ into }) => into)).toEqual(['t5', null, 't2', 't1', null]);
    expect(other.session.channel.has('t4')).toBe(false);
    expect(other.session.channel.has('t3')).toBe(false);
  });
});

it('an empty session has no sheet but its mix bus', () => {
  expect(writeSheet(newSession({ name: 'x' })).split('\r\n')).toHaveLength(3);
});
