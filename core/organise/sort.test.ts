// Sorting the demo's raw files by the default rules: the tree, what is left alone, fights, corrections, tiers, sameness of the sum.
import { describe, expect, it } from 'vitest';
import { planBatch } from '../commands/plan';
import { commit } from '../session/changes';
import type { Session } from '../session/entities';
import { inOrder } from '../session/select';
import { act, DEMO, sessionOf } from '../../tests/oracle/heap';
import { treeOf } from '../routing/graph';
import { defaultRules } from './defaultRules';
import { nameBy, sortPlan, type SortOptions } from './sort';
import { busesFromList, treeDefaults } from './tree';

/** The tree as text, two spaces a level. */
const drawn = (session: Session) => treeOf(session).mix.map(({ channel, depth }) => '  '.repeat(depth) + channel.name);
const options: SortOptions = { ...treeDefaults, rename: true, reorder: true };
const ids = () => {
  let n = 0;
  return () => `n${++n}`;
};
const sorted = (session: Session, more: Partial<Parameters<typeof sortPlan>[1]> = {}) =>
  sortPlan(session, { book: defaultRules, options, newId: ids(), ...more });

describe('sorting the raw demo by the default rules', () => {
  it('builds the tree that an engineer would, as one batch that is undone as one', () => {
    const session = sessionOf(DEMO);
    const before = JSON.stringify([...session.channel.values()]);
    const plan = sorted(session);
    expect(JSON.stringify([...session.channel.values()])).toBe(before);
    const planned = planBatch(session, plan.commands);
    if (!planned.ok) throw new Error(planned.error.message);
    const undo = commit(session, planned.value.changes);
    expect(planned.value.label).toBe('Sort 21 tracks by rule');
    expect(drawn(session)).toEqual([
      'MIX',
      '  AUD_0001',
      '  AUD_0004_take3',
      '  AUD_0007_take3',
      '  PERCUSSION',
      '    HAND DRUMS',
      '      Surdo',
      '      Surdo 1',
      '      Repique',
      '    SHAKERS',
      '      Shaker 1',
      '      Shaker 2',
      '  PANS',
      '    Guitar pan',
      '    Double seconds L',
      '    Double seconds R',
      '    Pan tenor L',
      '    Pan tenor R',
      '  BRASS',
      '    Trumpet 1',
      '    Trumpet 2',
      '    LOW BRASS',
      '      Sousaphone',
      '      Trombone',
      '  VOICES',
      '    CHOIR',
      '      Choir S',
      '      Choir A',
      '      Choir T',
      '      Choir B',
      '    LEAD',
      '      Lead voice',
      '      Lead voice double',
      '  ROOMS',
      '    ROOM AB'
    ]);
    const of = (name: string) => inOrder(session).find((channel) => channel.name === name)!;
    expect([of('Double seconds L').pan, of('Double seconds R').pan]).toEqual([-40, 40]);
    expect(of('Shaker 1')).toMatchObject({ role: 'percussion', colour: 2 });
    expect(plan.tracks.filter(({ rule }) => !rule).map(({ file }) => file)).toEqual([
      'AUD_0001.wav',
      'AUD_0004_take3.wav',
      'AUD_0007_take3.wav'
    ]);
    // Sorted again there is nothing left to do.
    expect(sorted(session).commands).toEqual([]);
    commit(session, undo);
    expect(JSON.stringify([...session.channel.values()])).toBe(before);
  });

  it('leaves what a person has set, and says so', () => {
    const session = sessionOf(DEMO);
    act(session, { do: 'channels.rename', names: [{ id: 't2', name: 'My surdo' }] }, { do: 'channels.colour', ids: ['t2'], colour: 3.5 });
    act(session, { do: 'buses.add', id: 'mine', name: 'MINE', members: ['t6', 't7'] });
    const plan = sorted(session);
    expect(plan.tracks.find(({ id }) => id === 't2')!.kept).toEqual(['name', 'colour']);
    expect(plan.tracks.find(({ id }) => id === 't6')!.kept).toEqual(['output']);
    act(session, ...plan.commands);
    expect(session.channel.get('t2')).toMatchObject({ name: 'My surdo', colour: 3.5, role: 'percussion' });
    expect(session.channel.get('t6')!.outputId).toBe('mine');
    // Even a command sent past the preview cannot.
    act(
      session,
      { do: 'channels.rename', names: [{ id: 't2', name: 'Else' }], auto: true },
      { do: 'channels.route', ids: ['t6'], to: 'mix', auto: true }
    );
    expect(session.channel.get('t2')!.name).toBe('My surdo');
    expect(session.channel.get('t6')!.outputId).toBe('mine');
  });

  it('lets the first of two rules win and names the other; takes corrections', () => {
    const session = sessionOf(['bass pan.wav', 'AUD_0004_take3.wav']);
    const plan = sorted(session, {
      corrections: { t2: { rule: defaultRules.rules.find(({ family }) => family === 'HAND DRUMS')!.id, name: 'Caixa' } }
    });
    const [pan, caixa] = plan.tracks;
    expect(pan.rule!.family).toBe('PANS');
    expect(pan.fights.map(({ family }) => family)).toContain('BASS');
    expect(caixa).toMatchObject({ name: 'Caixa', path: ['PERCUSSION', 'HAND DRUMS'], corrected: { rule: true, name: true } });
    act(session, ...plan.commands);
    expect(drawn(session)).toEqual(['MIX', '  PERCUSSION', '    HAND DRUMS', '      Caixa', '  PANS', '    Bass pan']);
    // What was corrected is marked: another rule that would take the file changes nothing of it.
    expect(session.channel.get('t2')!.byHand).toBe('name colour role output');
    const [first] = defaultRules.rules;
    const book = { ...defaultRules, rules: [{ ...first, words: '/^AUD/', family: 'KEYS', bus: '', role: 'keys', name: 'Wrong' }] };
    act(session, ...sorted(session, { book }).commands);
    expect(session.channel.get('t2')).toMatchObject({ name: 'Caixa', role: 'percussion' });
    expect(drawn(session)).toContain('    HAND DRUMS');
  });

  it('makes one, two or three tiers, marks, contained and common returns, a chain; a click goes nowhere', () => {
    const files = ['Kick In.wav', 'choir_S.wav', 'Click.wav'];
    const tree = (more: Partial<SortOptions>) => {
      const session = sessionOf(files);
      act(session, ...sorted(session, { options: { ...options, ...more } }).commands);
      expect(session.channel.get('t3')!.outputId).toBeNull();
      return drawn(session);
    };
    expect(tree({ tiers: 1 })).toEqual(['MIX', '  KICK', '    Kick In', '  CHOIR', '    Choir S']);
    expect(tree({ tiers: 3, naming: 'mark', chain: 'Glue, Level', contained: '{bus} room', common: 'Effects' })).toEqual([
      'MIX',
      '  Level',
      '    Glue',
      '      ››› RHYTHM',
      '        ›› DRUMS',
      '          › KICK',
      '            Kick In',
      '            › KICK room',
      '      ›› VOICES',
      '        › CHOIR',
      '          Choir S',
      '          › CHOIR room',
      '      › Effects'
    ]);
  });

  it('sends at −∞ to the returns that a rule names', () => {
    const session = sessionOf(['choir_S.wav', 'choir_A.wav']);
    const book = {
      ...defaultRules,
      rules: defaultRules.rules.map((rule) => (rule.family === 'CHOIR' ? { ...rule, sends: 'Shed' } : rule))
    };
    act(session, ...sorted(session, { book }).commands);
    const shed = inOrder(session).find(({ name }) => name === 'Shed')!;
    expect([...session.send.values()].map(({ sourceId, targetId, levelDb }) => [sourceId, targetId, levelDb])).toEqual([
      ['t1', shed.id, -Infinity],
      ['t2', shed.id, -Infinity]
    ]);
  });
});

it('makes many buses of a pasted list', () => {
  const session = sessionOf([]);
  const list = (text: string) => busesFromList(session, text, { naming: 'upper', mark: '' }, ids());
  const made = list('Rhythm\n  Drums\n\tPerc\nVoices\n    Choir\n');
  if (!made.ok) throw new Error(made.error.message);
  expect(act(session, ...made.value)).toBe('New buses: 5');
  expect(drawn(session)).toEqual(['MIX', '  RHYTHM', '    DRUMS', '      PERC', '  VOICES', '    CHOIR']);
  expect(list('rhythm\n  drums')).toEqual({ ok: true, value: [] });
  expect(list('A\na')).toMatchObject({ ok: false, error: { message: 'Line 2: a stands in the list twice.' } });
  expect(list('  \n')).toMatchObject({ ok: false });
});

describe('stations that do nothing', () => {
  const tree = (least: number, tiers: 1 | 2 | 3) => {
    const session = sessionOf(DEMO);
    act(session, ...sorted(session, { options: { ...options, tiers, least } }).commands);
    return drawn(session).map((line) => line.trim());
  };
  it('are spared: families of one go into the bus above, and a section that holds nothing but one family too', () => {
    expect(tree(1, 2)).toEqual(expect.arrayContaining(['LEAD', 'LOW BRASS', 'HAND DRUMS']));
    const spared = tree(2, 2);
    expect(spared).not.toContain('ROOMS');
    for (const kept of ['LOW BRASS', 'HAND DRUMS', 'CHOIR']) expect(spared).toContain(kept);
    // Nothing is lost: every track still stands in the tree.
    const tracks = (list: string[]) => list.filter((name) => name !== name.toUpperCase()).sort();
    expect(tracks(tree(3, 3))).toEqual(tracks(tree(1, 3)));
    expect(tree(99, 2)).not.toContain('PANS');
  });
  it('and one rule of case for every name: as the file has it, what was abbreviated in small letters', () => {
    expect(['LV dbl.wav', 'LV main.wav', 'dbl sec L.wav', 'tpt 2.wav'].map((file) => nameBy({ name: '' }, file))).toEqual([
      'LV double',
      'LV main',
      'Double seconds L',
      'Trumpet 2'
    ]);
  });
});
