// The demo with its routing finished: families in stems with returns of their own, effects that answer each other, keys, cues,
// a mix chain, VCAs and link groups. Follows upon the half-way form.
import type { Command } from '../core/commands/index.ts';
import { inTime } from './cleaned.ts';
import { halfway } from './halfway.ts';
import { moving } from './moving.ts';

const ROOMS = ['drums', 'pans', 'brass', 'voices'] as const;

/** Commands that bring the freshly imported demo to its finished routing. */
export function finished(trackIds: readonly string[]): Command[] {
  const t = (number: number) => trackIds[number - 1];
  const choir = [18, 19, 20, 21].map(t);
  const lead = [22, 23].map(t);
  const send = (source: string, target: string, level: number, more: object = {}) => ({ source, target, level, ...more });
  return [
    ...halfway(trackIds),
    { do: 'channels.route', ids: [t(1)], to: null },
    { do: 'buses.add', id: 'choir', name: 'CHOIR', members: choir, colour: 10 },
    { do: 'buses.add', id: 'lead', name: 'LEAD', members: lead, colour: 8 },
    { do: 'channels.colour', ids: choir, colour: 10 },
    { do: 'channels.colour', ids: lead, colour: 8 },
    { do: 'buses.add', id: 'shed', name: 'SHED', members: [t(24)], colour: 7 },
    // One room a stem, so that each is complete.
    { do: 'returns.twin', id: 'room', twins: ROOMS.map((bus) => ({ id: `room-${bus}`, bus })) },
    {
      do: 'channels.rename',
      names: [
        { id: 'room-drums', name: 'Room drums' },
        { id: 'room-pans', name: 'Room pans' },
        { id: 'room-brass', name: 'Room brass' },
        { id: 'room-voices', name: 'Room voices' }
      ]
    },
    { do: 'returns.add', id: 'plate', name: 'Plate', outputId: 'lead', sources: lead, colour: 8 },
    { do: 'inserts.set', id: 'plate:reverb', values: { type: 1, decay: 2.1, preDelay: 34, damp: 7200 } },
    { do: 'returns.add', id: 'echo', name: 'Echo', outputId: 'lead', effect: 'delay', sources: lead, colour: 9 },
    { do: 'inserts.set', id: 'echo:delay', values: { mode: 2, 't1.note': 7, feedback: 34, high: 320, low: 4200 } },
    { do: 'returns.parallel', id: 'press', name: 'Press', sources: [t(2), t(3), t(4), t(5)] },
    { do: 'inserts.set', id: 'press:comp', values: { threshold: -38, ratio: 10, attack: 2, release: 110 } },
    { do: 'buses.add', id: 'effects', name: 'EFFECTS', colour: 6 },
    { do: 'returns.add', id: 'glow', name: 'Glow', outputId: 'effects', colour: 6, sources: [...choir, t(12), t(13), t(16)] },
    { do: 'inserts.set', id: 'glow:reverb', values: { type: 2, decay: 4.6, preDelay: 60, damp: 4800 } },
    {
      do: 'sends.set',
      sends: [
        send(t(22), 'plate', -4),
        send(t(23), 'plate', -9),
        send(t(22), 'echo', -17, { mono: true }),
        send('echo', 'plate', -5),
        send(t(2), 'press', -2),
        send(t(5), 'press', -6),
        ...choir.map((id) => send(id, 'glow', -12)),
        send(t(12), 'glow', -17),
        send(t(13), 'glow', -17),
        send(t(16), 'glow', -15, { tap: 'pre' })
      ]
    },
    // The dry voice keeps its own tails down; a pulse that nobody hears lets the long hall breathe.
    { do: 'inserts.add', id: 'plate:duck', channelId: 'plate', type: 'comp' },
    { do: 'inserts.set', id: 'plate:duck', values: { threshold: -36, ratio: 4, attack: 12, release: 260 } },
    { do: 'inserts.key', id: 'plate:duck', source: t(22), tap: 'post' },
    { do: 'keys.add', id: 'pulse', name: 'Breath', pattern: { of: 'pulse', every: 2, accentDb: 0, levelDb: -6, length: 40, decay: 160 } },
    { do: 'inserts.add', id: 'glow:duck', channelId: 'glow', type: 'comp' },
    { do: 'inserts.set', id: 'glow:duck', values: { threshold: -30, ratio: 3, attack: 20, release: 340 } },
    { do: 'inserts.key', id: 'glow:duck', source: 'pulse', tap: 'post' },
    { do: 'chain.add', id: 'knit', name: 'KNIT' },
    { do: 'inserts.add', id: 'knit:comp', channelId: 'knit', type: 'comp' },
    { do: 'inserts.set', id: 'knit:comp', values: { threshold: -20, ratio: 1.8, attack: 28, release: 220, knee: 8 } },
    { do: 'chain.add', id: 'final', name: 'FINAL' },
    { do: 'inserts.add', id: 'final:limiter', channelId: 'final', type: 'limiter' },
    { do: 'inserts.set', id: 'final:limiter', values: { ceiling: -1, drive: 3 } },
    {
      do: 'faders.set',
      levels: [
        { id: 'press', level: -16 },
        { id: 'plate', level: 0.5 },
        { id: 'echo', level: -3 },
        { id: 'glow', level: -3.5 }
      ]
    },
    { do: 'cues.add', id: 'singer', name: 'Singer', from: 'mix' },
    { do: 'cues.add', id: 'drummer', name: 'Drummer', from: 'mix' },
    { do: 'clicks.add', id: 'click', name: 'Click' },
    {
      do: 'columns.order',
      ids: ['room-drums', 'press', 'room-pans', 'room-brass', 'room-voices', 'plate', 'echo', 'glow', 'singer', 'drummer']
    },
    { do: 'pins.set', ids: ['lead'], on: true },
    ...groups(t),
    ...deliverable(t),
    ...inTime(t),
    ...moving(t)
  ];
}

/** Stems, whole but for the effects that all share; the usual versions. */
function deliverable(t: (number: number) => string): Command[] {
  const band = ['drums', 'pans', 'brass'];
  const out = (...ids: string[]) => Object.fromEntries(ids.map((id) => [id, '-inf' as const]));
  return [
    { do: 'stems.set', ids: [...band, 'voices', 'shed'], on: true },
    { do: 'stems.set', ids: ['effects'], on: true, common: true },
    { do: 'versions.add', id: 'instrumental', name: 'Instrumental', stems: out('voices') },
    { do: 'versions.add', id: 'voices-only', name: 'Voices only', stems: out(...band, 'shed') },
    { do: 'versions.add', id: 'voices-up', name: 'Voices +1', stems: { voices: 1 } },
    { do: 'versions.add', id: 'no-lead', name: 'No lead', channels: [t(22), t(23)].map((id) => ({ id, mute: true })) },
    { do: 'versions.add', id: 'no-limiter', name: 'No limiter', inserts: { 'final:limiter': false } }
  ];
}

/** VCAs over the families, one over all of them; link groups of what is played as one. */
function groups(t: (number: number) => string): Command[] {
  const from = (first: number, last: number) => Array.from({ length: last - first + 1 }, (_, i) => t(first + i));
  const families = [
    { id: 'vca-rhythm', name: 'RHYTHM', members: from(2, 7), colour: 1 },
    { id: 'vca-pans', name: 'PANS', members: from(8, 13), colour: 5 },
    { id: 'vca-brass', name: 'BRASS', members: from(14, 17), colour: 0 },
    { id: 'vca-voices', name: 'VOICES', members: from(18, 23), colour: 9 }
  ];
  return [
    { do: 'vcas.add', id: 'vca-band', name: 'BAND', colour: 6 },
    ...families.map((family): Command => ({ do: 'vcas.add', ...family })),
    { do: 'vcas.members', id: 'vca-band', add: families.map(({ id }) => id) },
    {
      do: 'faders.set',
      levels: [
        { id: 'vca-rhythm', level: -1.5 },
        { id: 'vca-brass', level: -1 }
      ]
    },
    {
      do: 'links.add',
      id: 'skin',
      name: 'Hand drums',
      badge: 'skin',
      members: from(2, 5),
      attributes: ['level', 'mute', 'solo', 'automation']
    },
    { do: 'links.set', id: 'skin', shortcut: 'Alt+1' },
    { do: 'links.add', id: 'tenors', name: 'Tenor pans', badge: 'pair', members: from(12, 13), attributes: ['level', 'pan'] },
    { do: 'links.members', id: 'tenors', mirrored: [t(13)] },
    {
      do: 'links.add',
      id: 'trumpets',
      name: 'Trumpets',
      badge: 'tpt',
      members: from(16, 17),
      attributes: ['level', 'pan', 'mute', 'solo', 'bypass', 'insertValues', 'colour']
    },
    { do: 'links.set', id: 'trumpets', active: false },
    { do: 'links.add', id: 'sing', name: 'Choir', badge: 'sing', members: from(18, 21), attributes: ['level', 'sendLevel'] }
  ];
}
