// What goes with printed files: what each is of, what was left out and in, what was measured and proved. `delivery.json` is this document;
// the delivery sheet shows it to people.
import { MIX } from '../session/create.ts';
import { settingsOf, type Session } from '../session/entities.ts';
import { insertsOf } from '../session/select.ts';
import { processors } from '../processors/index.ts';
import { levelOf } from '../routing/level.ts';
import { branchOf, mixChain } from '../routing/graph.ts';
import { judgeStems } from '../stems/soundness.ts';
import type { Frames } from '../units.ts';
import type { Format, PlannedFile, PrintKind, Range } from './order.ts';
import { remains, versionWords } from './words.ts';

/** What a session was when it was printed. */
export type About = {
  readonly session: string;
  readonly bpm: number;
  readonly beatsPerBar: number;
  /** Frames on the timeline's own count at which the session begins: the time reference of its first frame. */
  readonly zero: Frames;
  /** The mix chain as the sound passes it. */
  readonly chain: readonly {
    readonly channel: string;
    /** dB, VCAs included; null is −∞. */
    readonly levelDb: number | null;
    readonly inserts: readonly { readonly name: string; readonly on: boolean }[];
  }[];
  /** Frames; 0 is none. */
  readonly fadeIn: Frames;
  readonly fadeOut: Frames;
  readonly stems: readonly { readonly name: string; readonly common: boolean; readonly tracks: readonly string[] }[];
  /** Whether the stems add up, and whether each is all of its tracks. */
  readonly sound: boolean;
  readonly whole: boolean;
  readonly flaws: readonly string[];
};

export function aboutOf(session: Session): About {
  const { name, bpm, beatsPerBar, zero, fadeIn, fadeOut } = settingsOf(session);
  const { stems, sound, whole, flaws } = judgeStems(session);
  const plain = (level: number) => (level === -Infinity ? null : level);
  return {
    ...{ session: name, bpm, beatsPerBar, zero, fadeIn, fadeOut, sound, whole },
    chain: mixChain(session).map((channel) => ({
      channel: channel.name,
      levelDb: plain(levelOf(session, channel)),
      inserts: insertsOf(session, channel.id).map(({ type, bypass }) => ({ name: processors[type].title, on: !bypass }))
    })),
    stems: stems.map((stem) => ({
      name: stem.name,
      common: stem.common,
      tracks: branchOf(session, stem.id).flatMap((id) => {
        const channel = session.channel.get(id)!;
        return channel.kind === 'track' && !channel.resting ? [channel.name] : [];
      })
    })),
    flaws: flaws.map(({ text }) => text)
  };
}

/** Whether files of a kind are parts of the mix that may be added up. */
export const isAdditive = (kind: PrintKind): boolean => kind === 'stem';

/** What a file is of, in words: `made(session, file)` → "without VOICES" */
export function made(session: Session, { kind, id, name }: Pick<PlannedFile, 'kind' | 'id' | 'name'>): string {
  const bus = session.channel.get(MIX)?.name ?? 'the mix bus';
  const chain = mixChain(session)
    .map(({ name: channel }) => channel)
    .join(', ');
  switch (kind) {
    case 'stem':
      return `behind its fader and pan, without the mix chain (${chain})`;
    case 'input':
      return `all that comes into ${bus}, without the mix chain (${chain})`;
    case 'mix':
      return `through the mix chain (${chain})${faded(session)}`;
    case 'version': {
      const version = session.version.get(id)!;
      const still = remains(session, version).map(
        ({ stem, inside }) => `${nameOf(session, stem)} goes on in ${inside.map((each) => nameOf(session, each)).join(', ')}`
      );
      return [...(versionWords(session, version).length ? versionWords(session, version) : ['as the mix']), ...still].join('; ');
    }
    case 'chained':
      return `alone through the mix chain (${chain}), whose keyed processors hear the whole mix; not additive`;
    case 'raw':
      return name.endsWith('(key)') ? 'what the mix chain is keyed by, before its fader' : 'through its inserts, before its fader';
    case 'dry':
      return name.endsWith('(key)') ? 'what the mix chain is keyed by, before its inserts' : 'before its inserts';
    default:
      return 'behind its fader and pan';
  }
}
const nameOf = (session: Session, id: string) => session.channel.get(id)?.name ?? 'what is gone';

function faded(session: Session): string {
  const { fadeIn, fadeOut, rate } = settingsOf(session);
  const seconds = (frames: Frames) => `${Math.round((frames / rate) * 1000) / 1000} s`;
  const fades = [...(fadeIn ? [`fade-in of ${seconds(fadeIn)}`] : []), ...(fadeOut ? [`fade-out of ${seconds(fadeOut)}`] : [])];
  return fades.length ? `, with the ${fades.join(' and the ')}` : '';
}

export const DELIVERY_FORMAT = 'isotaxis-delivery';
/** What was measured of a file. */
export type FileFacts = {
  readonly channels: number;
  readonly frames: Frames;
  readonly bytes: number;
  /** dBFS, dBTP, LUFS, LU; null is silence, or nothing loud enough to count. */
  readonly peakDb: number | null;
  readonly truePeakDb: number | null;
  readonly lufs: number | null;
  readonly rangeLu: number | null;
  readonly sha256: string;
};
export type DeliveredFile = FileFacts & {
  readonly name: string;
  readonly kind: PrintKind;
  /** The channel or version. */
  readonly of: string;
  readonly made: string;
  /** Whether it and its like add up to the mix-bus input. */
  readonly additive: boolean;
};
export type Delivery = {
  readonly format: typeof DELIVERY_FORMAT;
  readonly version: 1;
  /** ISO 8601, UTC. */
  readonly printed: string;
  readonly revision: number;
  readonly encoding: Format;
  /** Hz. */
  readonly rate: number;
  readonly dither: boolean;
  /** Frames that every file has; of a job of several ranges those of its first file. */
  readonly frames: Frames;
  /** From the session's start, at the session's rate; empty is all of it. */
  readonly ranges: readonly Range[];
  readonly about: About;
  readonly files: readonly DeliveredFile[];
  readonly nulls: readonly {
    /** Place of its range among `ranges`; 0 where there is none. */
    readonly range: number;
    readonly of: 'stems' | 'chain';
    readonly name: string;
    /** Peak of what is left, dBFS; −300 is nothing at all. */
    readonly db: number;
    readonly bar: number;
    readonly holds: boolean;
    readonly words: string;
  }[];
  readonly notes: readonly string[];
};
