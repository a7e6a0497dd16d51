// How rows are born: the values of the handbook in one place.
import type { Channel, ChannelKind, Insert, InsertType, Send, Session, Settings } from './entities.ts';
import { birth } from './changes.ts';
import { tableNames } from './tables.ts';

/** Id of the mix bus in every session. */
export const MIX = 'mix';

/** Space between neighbours, so that halves can be taken many times before renumbering. */
export const POSITION_STEP = 1024;

export const emptySession = (): Session => Object.fromEntries(tableNames.map((table) => [table, new Map()])) as unknown as Session;

/** A session with its settings and mix bus and nothing else. */
export function newSession(settings: Partial<Settings> & { name: string }): Session {
  const session = emptySession();
  session.settings.set('settings', {
    id: 'settings',
    rate: 48000,
    bpm: 120,
    beatsPerBar: 4,
    panLaw: -3,
    muteClosesPre: true,
    muteClosesCue: false,
    soloDimDb: null,
    lastSolo: [],
    interfaceName: 'Quay Eight',
    interfaceOutputs: 8,
    zero: 0,
    ...settings
  });
  session.channel.set(MIX, {
    ...channelAtBirth({ id: MIX, kind: 'mix', name: 'MIX', position: 0, born: 0, width: 2 }),
    outputPair: 0
  });
  return session;
}

type Given = { id: string; kind: ChannelKind; name: string; position: number; born: number; width: 1 | 2 };

/** A channel at unity, centred, going nowhere; a return is solo-safe. */
export const channelAtBirth = (given: Given): Channel => ({
  colour: 0,
  role: '',
  byHand: '',
  hidden: false,
  resting: false,
  pinned: false,
  column: 0,
  columnHidden: false,
  outputId: null,
  outputPair: null,
  trimDb: 0,
  polarity: false,
  faderDb: 0,
  pan: 0,
  panRight: null,
  spread: 100,
  mute: false,
  solo: false,
  soloSafe: given.kind === 'return',
  pattern: null,
  ...given
});

/** A send at −∞: nothing changes until it is raised. Into a cue it is taken before the fader, so that players keep their balance. */
export const sendAtBirth = (sourceId: string, target: Channel): Send => ({
  sourceId,
  targetId: target.id,
  levelDb: -Infinity,
  tap: target.kind === 'cue' ? 'pre' : 'post',
  on: true,
  mono: false,
  pan: null
});

/** An insert with birth values; a time effect on a return is 100 % wet. */
export const insertAtBirth = (id: string, channel: Channel, type: InsertType, position: number): Insert => ({
  id,
  channelId: channel.id,
  position,
  type,
  bypass: false,
  keyId: null,
  keyTap: 'post',
  params: (type === 'reverb' || type === 'delay') && channel.kind !== 'return' ? { mix: 30 } : {}
});

/** First free order of birth. */
export const nextBorn = (session: Session): number => Math.max(0, ...[...session.channel.values()].map((channel) => channel.born)) + 1;

/** The position after all channels. */
export const lastPosition = (session: Session): number =>
  Math.max(0, ...[...session.channel.values()].map((channel) => channel.position)) + POSITION_STEP;

export const channelBirth = (channel: Channel) => birth('channel', channel.id, channel);
