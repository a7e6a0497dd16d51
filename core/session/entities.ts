// The entities of a session: plain rows in maps, the same shape in memory, on the wire and in SQL.
import type { Db, Frames, Pan } from '../units.ts';

export type ChannelKind = 'track' | 'bus' | 'return' | 'mix' | 'cue' | 'key';
/** `input` before the inserts, `pre` after them and before the fader, `post` after fader and pan. */
export type Tap = 'input' | 'pre' | 'post';
export type InsertType = 'eq' | 'comp' | 'limiter' | 'trim' | 'delay' | 'reverb' | 'outside';
export type PanLaw = -3 | -4.5 | -6 | 0;

/** What every pulse of a pattern is: how long at full level, and how fast it then falls. */
export type PulseShape = {
  /** Level of its beginning, dBFS. */
  readonly levelDb: Db;
  /** Time at that level, ms. */
  readonly length: number;
  /** Time to fall by 60 dB after that, ms. */
  readonly decay: number;
};

/**
 * Pulses instead of recordings. `pulse`: one every `every` quarter notes, the first of a bar `accentDb` louder. `notes`: at
 * positions in quarter notes, with their velocities 0 … 1. `onsets`: at frames where another track's sound begins.
 */
export type Pattern = PulseShape &
  (
    | { readonly of: 'pulse'; readonly every: number; readonly accentDb: Db }
    | { readonly of: 'notes'; readonly file: string; readonly at: readonly number[]; readonly velocity: readonly number[] }
    | { readonly of: 'onsets'; readonly trackId: string; readonly at: readonly Frames[] }
  );

export type Channel = {
  readonly id: string;
  readonly kind: ChannelKind;
  readonly name: string;
  /** Place among the twelve family hues, 0 … < 12; between two of them a hue in between. */
  readonly colour: number;
  /** What it is in the music: an id of `ROLES`, or '' where that is not known. */
  readonly role: string;
  /** Which of `HAND_FIELDS` a person has set, words with spaces between: no automatic step changes these. */
  readonly byHand: string;
  /** Whether it is left out of the views; it sounds all the same. */
  readonly hidden: boolean;
  /** Whether it is kept but costs nothing and makes no sound. */
  readonly resting: boolean;
  /** Whether its row stands in the pinned section, always in view. */
  readonly pinned: boolean;
  /** Sort key of its column among the crosspoints, of returns and cues; equals stand in the order of the session. */
  readonly column: number;
  readonly columnHidden: boolean;
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
  /** Its pan; of a stereo channel a balance, or, with `panRight`, where its left side is placed. */
  readonly pan: Pan;
  /** Where a stereo channel's right side is placed apart from the left; null: one balance pin. */
  readonly panRight: Pan | null;
  /** How wide a stereo channel is: side over mid in per cent, 0 … 200. */
  readonly spread: number;
  readonly mute: boolean;
  readonly solo: boolean;
  readonly soloSafe: boolean;
  /** What a key track, or a click, plays besides its clips. */
  readonly pattern: Pattern | null;
};

export type Side = 'both' | 'left' | 'right';

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
  /** The media's audio channel that the track's first one plays; that of one side alone where `side` names one. */
  readonly channel: number;
  /** Which audio channels of the track it fills: of a pair made of two recordings each fills one. */
  readonly side: Side;
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
  /**
   * Integrated loudness (BS.1770), LUFS: of each audio channel alone, then, of two, of the pair; null within where it is silent.
   * Null where it was not measured.
   */
  readonly loudness: (number | null)[] | null;
};

/** A line with a caption between rows, standing before the first channel of a higher position. */
export type Divider = { readonly id: string; readonly caption: string; readonly position: number };

/** What a filter of rows asks for; '' asks nothing. `family` is a colour as text. */
export type RowFilter = Readonly<Record<'text' | 'kind' | 'role' | 'family' | 'to' | 'width', string>>;

/** A saved set of what is shown, recalled by its number: rows chosen one by one, or whatever a filter finds. */
export type Showing = {
  readonly id: string;
  /** 1 … 9. */
  readonly number: number;
  readonly name: string;
  readonly ids: readonly string[] | null;
  readonly filter: RowFilter | null;
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
  /** Whether mute also closes `input` and `pre` sends into cues. */
  readonly muteClosesCue: boolean;
  /** By how much solo dims the rest, dB below 0; null silences it. */
  readonly soloDimDb: number | null;
  /** The channels soloed before solo was last cleared. */
  readonly lastSolo: readonly string[];
  /** The simulated interface: its name and how many outputs it has, an even number. */
  readonly interfaceName: string;
  readonly interfaceOutputs: number;
  /** The time reference that the timeline's first frame stands for, in frames: that of the recordings it began with. */
  readonly zero: Frames;
};

/** Opens a cue's own page to its player. The id is the token in the page's address. */
export type CueToken = { readonly id: string; readonly channelId: string };

export type Tables = {
  settings: Settings;
  channel: Channel;
  send: Send;
  insert: Insert;
  clip: Clip;
  media: Media;
  divider: Divider;
  showing: Showing;
  cueToken: CueToken;
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
