// The demo half-way: named, coloured, in four family buses with one shared room; the rest is left to do.
import type { Command } from '../core/commands/index.ts';
import type { Role } from '../core/session/roles.ts';

/** Track ids in the order of the recordings are `t1` … ; names and what is known of each. */
const TRACKS: readonly {
  name: string;
  colour: number;
  fader: number;
  pan: number;
  bus: 'drums' | 'pans' | 'brass' | 'voices' | null;
  room: number | null;
}[] = [
  { name: 'Slate', colour: 11, fader: -Infinity, pan: 0, bus: null, room: null },
  { name: 'Surdo low', colour: 1, fader: -3, pan: 0, bus: 'drums', room: -15 },
  { name: 'Surdo high', colour: 1, fader: -5, pan: -12, bus: 'drums', room: -13 },
  { name: 'Caixa', colour: 1, fader: -4, pan: 14, bus: 'drums', room: -11 },
  { name: 'Repique', colour: 1, fader: -6, pan: 34, bus: 'drums', room: -11 },
  { name: 'Shaker L', colour: 1, fader: -3, pan: -70, bus: 'drums', room: null },
  { name: 'Shaker R', colour: 1, fader: -3, pan: 70, bus: 'drums', room: null },
  { name: 'Bass pan', colour: 5, fader: -2.5, pan: 0, bus: 'pans', room: null },
  { name: 'Guitar pan', colour: 5, fader: -8, pan: 22, bus: 'pans', room: -10 },
  { name: 'Double seconds L', colour: 5, fader: -6, pan: -48, bus: 'pans', room: -8 },
  { name: 'Double seconds R', colour: 5, fader: -6, pan: 48, bus: 'pans', room: -8 },
  { name: 'Tenor pan L', colour: 5, fader: -4.5, pan: -30, bus: 'pans', room: -5.5 },
  { name: 'Tenor pan R', colour: 5, fader: -4.5, pan: 30, bus: 'pans', room: -5.5 },
  { name: 'Sousaphone', colour: 0, fader: -5, pan: 0, bus: 'brass', room: -17 },
  { name: 'Trombone', colour: 0, fader: -6.5, pan: 26, bus: 'brass', room: -9 },
  { name: 'Trumpet 1', colour: 0, fader: -7, pan: -20, bus: 'brass', room: -7 },
  { name: 'Trumpet 2', colour: 0, fader: -7.5, pan: -34, bus: 'brass', room: -7 },
  { name: 'Choir S', colour: 9, fader: -6, pan: -40, bus: 'voices', room: -4 },
  { name: 'Choir A', colour: 9, fader: -6.5, pan: -14, bus: 'voices', room: -4 },
  { name: 'Choir T', colour: 9, fader: -6.5, pan: 14, bus: 'voices', room: -4 },
  { name: 'Choir B', colour: 9, fader: -5.5, pan: 40, bus: 'voices', room: -4 },
  { name: 'Lead voice', colour: 9, fader: -2, pan: 0, bus: 'voices', room: -7 },
  { name: 'Lead double', colour: 9, fader: -9, pan: 8, bus: 'voices', room: -7 },
  { name: 'Shed pair', colour: 7, fader: -10, pan: 0, bus: null, room: null }
];
const BUSES = [
  { id: 'drums', name: 'HAND DRUMS', colour: 1, fader: -1.5 },
  { id: 'pans', name: 'PANS', colour: 5, fader: -2 },
  { id: 'brass', name: 'BRASS', colour: 0, fader: -3 },
  { id: 'voices', name: 'VOICES', colour: 9, fader: -1 }
] as const;
/** What the tracks are, by their numbers. */
const ROLES: readonly [role: Role, from: number, to: number][] = [
  ['speech', 1, 1],
  ['percussion', 2, 7],
  ['pan', 8, 13],
  ['brass', 14, 17],
  ['choir', 18, 21],
  ['voice', 22, 23],
  ['room', 24, 24]
];

/** Commands that bring the freshly imported demo half-way. */
export function halfway(trackIds: readonly string[]): Command[] {
  const entries = TRACKS.map((track, i) => ({ ...track, id: trackIds[i] }));
  return [
    { do: 'channels.rename', names: entries.map(({ id, name }) => ({ id, name })) },
    ...[...new Set(entries.map(({ colour }) => colour))].map((colour): Command => ({
      do: 'channels.colour',
      ids: entries.filter((entry) => entry.colour === colour).map(({ id }) => id),
      colour
    })),
    ...ROLES.map(([role, from, to]): Command => ({ do: 'roles.set', ids: trackIds.slice(from - 1, to), role })),
    ...BUSES.map(({ id, name, colour }): Command => ({
      do: 'buses.add',
      id,
      name,
      colour,
      members: entries.filter((entry) => entry.bus === id).map((entry) => entry.id)
    })),
    {
      do: 'returns.add',
      id: 'room',
      name: 'Shed room',
      colour: 7,
      sources: entries.filter(({ room }) => room !== null).map(({ id }) => id)
    },
    { do: 'sends.set', sends: entries.flatMap(({ id, room }) => (room === null ? [] : [{ source: id, target: 'room', level: room }])) },
    { do: 'inserts.set', id: 'room:reverb', values: { type: 0, decay: 1.3, preDelay: 18, damp: 5600 } },
    {
      do: 'faders.set',
      levels: [
        ...entries.map(({ id, fader }) => ({ id, level: fader })),
        ...BUSES.map(({ id, fader }) => ({ id, level: fader })),
        { id: 'room', level: -0.5 },
        { id: 'mix', level: 2 }
      ]
    },
    { do: 'pans.set', pans: entries.map(({ id, pan }) => ({ id, pan })) },
    { do: 'inserts.add', id: 'lead:eq', channelId: trackIds[21], type: 'eq' },
    {
      do: 'inserts.set',
      id: 'lead:eq',
      values: {
        'b1.on': 1,
        'b1.freq': 95,
        'b1.slope': 2,
        'b3.on': 1,
        'b3.freq': 320,
        'b3.gain': -3,
        'b3.q': 1.1,
        'b4.on': 1,
        'b4.freq': 3400,
        'b4.gain': 2.5,
        'b5.on': 1,
        'b5.freq': 10500,
        'b5.gain': 2
      }
    },
    { do: 'inserts.add', id: 'drums:eq', channelId: 'drums', type: 'eq' },
    {
      do: 'inserts.set',
      id: 'drums:eq',
      values: { 'b3.on': 1, 'b3.freq': 280, 'b3.gain': -2.5, 'b5.on': 1, 'b5.freq': 7000, 'b5.gain': 1.5 }
    },
    { do: 'mutes.set', ids: [trackIds[0]], on: true }
  ];
}
