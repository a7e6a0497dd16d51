// The entities of a session: plain rows in maps, the same shape in memory, on the wire and in SQL.
import type { Db, Frames, Pan } from '../units.ts';

export type ChannelKind = 'track' | 'bus' | 'return' | 'mix';
/** `input` before the inserts, `pre` after them and before the fader, `post` after fader and pan. */
export type Tap = 'input' | 'pre' | 'post';
export type InsertType = 'eq' | 'comp' | 'limiter' | 'trim' | 'delay' | 'reverb';
export type PanLaw = -3 | -4.5 | -6 | 0;

export type Channel = {
  readonly id: string;
  readonly kind: ChannelKind;
  readonly name: string;
  /** Index into the twelve family hues, 0 … 11. */
  readonly colour: number;
  /** Sort key among all channels; any finite number, lower comes first. */
  readonly position: number;
  /** Order of birth, whole number; fixes the order of every sum. */
  readonly born: number;
  /** Audio channels inside: 1 mono, 2 stereo. */
  readonly width: 1 | 2;
  /** Main output: the channel it goes to; null with `outputPair` null is "nowhere". */
  readonly outputId: string | null;
  /** Main output: an interface output pair, 0 is outputs 1–2. */
  readonly outputPair: number | null;
  /** Level of the input before the inserts. */
  readonly trimDb: Db;
  /** Whether the input's polarity is turned round. */
  readonly polarity: boolean;
  readonly faderDb: Db;
  readonly pan: Pan;
  readonly mute: boolean;
  readonly solo: boolean;
  readonly soloSafe: boolean;
};

/** One crosspoint: at most one send per source and target. */
export type Send = {
  readonly sourceId: string;
  readonly targetId: string;
  readonly levelDb: Db;
  readonly tap: Tap;
  readonly on: boolean;
  /** (L+R)/2 to both sides; of a mono track, what it is before its pan. */
  readonly mono: boolean;
  /** Its own pan, or null: it follows the channel's. */
  readonly pan: Pan | null;
};

export type Insert = {
  readonly id: string;
  readonly channelId: string;
  readonly position: number;
  readonly type: InsertType;
  readonly bypass: boolean;
  /** What a processor with a key input listens to: a channel at a tap; null is its own input. */
  readonly keyId: string | null;
  readonly keyTap: Tap;
  /** Values in natural units by parameter name; what is missing has its birth value. */
  readonly params: Readonly<Record<string, number>>;
};

export type Clip = {
  readonly id: string;
  readonly channelId: string;
  readonly mediaId: string;
  /** Where it begins on the timeline. */
  readonly start: Frames;
  /** First frame of the media that is heard. */
  readonly offset: Frames;
  readonly length: Frames;
  /** The media's audio channel that the track's first one plays. */
  readonly channel: number;
};

/** What a recording was before it was decoded or its rate converted: its bytes are not kept, only their name and hash. */
export type Origin = { readonly format: string; readonly sha256: string; readonly rate: number };

export type Media = {
  readonly id: string;
  /** The file's name as it arrived. */
  readonly name: string;
  /** Content address: SHA-256 of the stored file, lower-case hex. */
  readonly sha256: string;
  readonly rate: number;
  readonly channels: number;
  readonly frames: Frames;
  readonly encoding: 's16' | 's24' | 's32' | 'f32' | 'f64';
  /** Sample peak, dBFS. */
  readonly peakDb: Db;
  readonly origin: Origin | null;
};

export type Settings = {
  readonly id: string;
  readonly name: string;
  readonly rate: number;
  readonly bpm: number;
  readonly beatsPerBar: number;
  readonly panLaw: PanLaw;
  /** Whether mute also closes `pre` sends into returns. */
  readonly muteClosesPre: boolean;
  /** The time reference that the timeline's first frame stands for, in frames: that of the recordings it began with. */
  readonly zero: Frames;
};

export type Tables = {
  settings: Settings;
  channel: Channel;
  send: Send;
  insert: Insert;
  clip: Clip;
  media: Media;
};
export type TableName = keyof Tables;

export type Session = { readonly [T in TableName]: Map<string, Tables[T]> };

/** The one settings row. */
export const settingsOf = (session: Session): Settings => session.settings.get('settings')!;

/** Key of a send in its map. A line feed cannot occur in an id. */
export const sendKey = (sourceId: string, targetId: string): string => `${sourceId}\n${targetId}`;

/** Key of any row in its table's map. */
export const keyOf = <T extends TableName>(table: T, row: Tables[T]): string =>
  table === 'send' ? sendKey((row as Send).sourceId, (row as Send).targetId) : (row as { id: string }).id;
