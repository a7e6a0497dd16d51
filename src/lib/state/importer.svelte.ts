// Import: files go up one after another, each is taken or refused with words; what was taken becomes tracks in one step. What stands in
// the session already is brought in again only when one says so.
import { v4 as uuid } from 'uuid';
import type { Command } from '$core/commands/index';
import { tracksFor, type Taken } from '$core/commands/intake';
import type { Media } from '$core/session/entities';
import { refusalIn } from './api';
import type { SessionStore } from './session.svelte';

export type ImportItem = {
  readonly name: string;
  readonly size: number;
  /** 0 … 1 of the bytes sent. */
  sent: number;
  state: 'waiting' | 'sending' | 'checking' | 'converting' | 'taken' | 'known' | 'refused' | 'cancelled';
  message: string;
  /** What a refusal says to programs: `rate` can be taken after all. */
  code: string;
};

/** What a file agrees to besides being read: its rate converted, or what is there of it kept. */
export type Consent = { readonly convert?: boolean; readonly keep?: boolean };

export type Importer = ReturnType<typeof createImporter>;

export function createImporter(store: SessionStore) {
  let items = $state<ImportItem[]>([]);
  let running = $state(false);
  let open = $state(false);
  let current: XMLHttpRequest | null = null;
  /** Files refused for their sample rate alone. */
  let otherRate = $state<File[]>([]);
  /** Files that were cut off, of which what is there can be kept. */
  let cutOff = $state<File[]>([]);
  /** Recordings that came in but stand in the session already: nobody has said yet whether they are wanted twice. */
  let known = $state.raw<readonly Taken[]>([]);
  let cancelled = false;
  let began = 0;
  let secondsLeft = $state<number | null>(null);

  /** Sends one file; the answer says what it holds or what is wrong with it. */
  const upload = (file: File, item: ImportItem, { convert = false, keep = false }: Consent): Promise<Taken | null> =>
    new Promise((resolve) => {
      const request = new XMLHttpRequest();
      current = request;
      request.open(
        'PUT',
        `/api/sessions/${store.id}/media?name=${encodeURIComponent(file.name)}${convert ? '&convert=1' : ''}${keep ? '&keep=1' : ''}`
      );
      request.setRequestHeader('Content-Type', 'application/octet-stream');
      request.upload.onprogress = ({ loaded }) => {
        item.sent = file.size ? loaded / file.size : 1;
        estimate();
      };
      request.upload.onload = () => (item.state = convert ? 'converting' : 'checking');
      const refuse = (message: string, code = '') => {
        Object.assign(item, { code, state: cancelled ? 'cancelled' : 'refused', message: cancelled ? 'Cancelled.' : message, sent: 1 });
        resolve(null);
      };
      request.onerror = () => refuse('The server did not answer. Try this file again.');
      request.onabort = () => refuse('Cancelled.');
      request.onload = () => {
        if (request.status !== 201) {
          const { message, code } = refusalIn(request.responseText);
          return refuse(message, code);
        }
        const { timeReference, ...media } = JSON.parse(request.responseText) as Answer;
        Object.assign(item, { state: 'taken', sent: 1, message: described(media) });
        resolve({ name: file.name, media: { ...media, peakDb: media.peakDb ?? -Infinity }, timeReference });
      };
      item.state = 'sending';
      request.send(file);
    });

  const estimate = () => {
    const total = items.reduce((sum, item) => sum + item.size, 0);
    const sent = items.reduce((sum, item) => sum + item.size * item.sent, 0);
    const elapsed = (performance.now() - began) / 1000;
    secondsLeft = sent > 0 && elapsed > 0.5 ? (elapsed / sent) * (total - sent) : null;
  };

  const asTracks = (taken: readonly Taken[]): boolean =>
    store.act([{ do: 'tracks.add', tracks: tracksFor(taken, () => uuid(), 7) } as Command]);
  /** What becomes of the recordings that were taken; says whether that is done. */
  let use = asTracks;

  /** Sends files up; what is taken becomes tracks, or what `then` makes of it. */
  const add = async (files: readonly File[], { then = asTracks, ...consent }: Consent & { then?: typeof asTracks } = {}) => {
    if (files.length === 0) return;
    if (running) return store.say('An import is running. Wait for it, or cancel it, then add these files.');
    use = then;
    items = files.map((file) => ({ name: file.name, size: file.size, sent: 0, state: 'waiting', message: '', code: '' }));
    otherRate = [];
    cutOff = [];
    known = [];
    running = open = true;
    cancelled = false;
    began = performance.now();
    const taken: Taken[] = [];
    const again: Taken[] = [];
    for (const [i, file] of files.entries()) {
      if (cancelled) {
        Object.assign(items[i], { state: 'cancelled', message: 'Cancelled.' });
        continue;
      }
      const recording = await upload(file, items[i], consent);
      const where = recording && placesOf(store, recording.media);
      if (recording && where) {
        again.push(recording);
        Object.assign(items[i], { state: 'known', message: `Stands in the session already: ${where}.` });
      } else if (recording) taken.push(recording);
      else if (items[i].code === 'rate') otherRate.push(file);
      else if (items[i].code === 'truncated') cutOff.push(file);
    }
    running = false;
    secondsLeft = null;
    if (!cancelled) known = again;
    if (cancelled && taken.length + again.length) {
      for (const item of items)
        if (item.state === 'taken' || item.state === 'known')
          Object.assign(item, { state: 'cancelled', message: 'Cancelled; not made a track.' });
    } else if (taken.length) {
      if (use(taken) && items.every((item) => item.state === 'taken')) open = false;
    }
  };

  return {
    add,
    /** Takes the files of another sample rate after all, converted to the session's. */
    convert: () => add(otherRate, { convert: true, then: use }),
    /** Takes what is there of files that were cut off. */
    keep: () => add(cutOff, { keep: true, convert: true, then: use }),
    get cutOff() {
      return cutOff.length;
    },
    /** How many recordings wait for a word on whether they are wanted twice. */
    get known() {
      return known.length;
    },
    bringAgain: () => {
      const wanted = known;
      known = [];
      if (!use(wanted)) return;
      for (const item of items) if (item.state === 'known') Object.assign(item, { state: 'taken', message: 'Brought in once more.' });
      if (items.every((item) => item.state === 'taken')) open = false;
    },
    leaveOut: () => {
      known = [];
      for (const item of items)
        if (item.state === 'known') Object.assign(item, { state: 'cancelled', message: `${item.message} Left out.` });
    },
    get convertible() {
      return otherRate.length;
    },
    cancel: () => {
      cancelled = true;
      current?.abort();
    },
    get items() {
      return items;
    },
    get running() {
      return running;
    },
    get secondsLeft() {
      return secondsLeft;
    },
    get open() {
      return open;
    },
    set open(value: boolean) {
      open = value;
    }
  };
}

/** The tracks that play a recording, in words, or null where none does: the same bytes, or those that it was decoded from. */
function placesOf(store: SessionStore, { sha256, origin }: Media): string | null {
  const { media, clip, channel } = store.session;
  const same = new Set(
    [...media.values()].flatMap((row) => (row.sha256 === sha256 || (origin && row.origin?.sha256 === origin.sha256) ? [row.id] : []))
  );
  const tracks = new Set([...clip.values()].flatMap((each) => (same.has(each.mediaId) ? [channel.get(each.channelId)!.name] : [])));
  if (tracks.size === 0) return null;
  const [first, ...more] = tracks;
  return `on ${first}${more.length ? ` and ${more.length} more` : ''}`;
}

type Answer = Omit<Media, 'peakDb'> & { readonly peakDb: number | null; readonly timeReference: number | null };

const FORMATS: Record<string, string> = { f32: '32-bit float', f64: '64-bit float' };
const WIDTHS = ['', 'mono', 'stereo'];

const described = ({ channels, rate, frames, encoding, origin }: Omit<Media, 'peakDb'>) => {
  const parts = [
    WIDTHS[channels] ?? `${channels} channels, a track each`,
    `${rate / 1000} kHz`,
    FORMATS[encoding] ?? `${encoding.slice(1)} bit`,
    `${(frames / rate).toFixed(1)} s`
  ];
  if (origin)
    parts.push(origin.rate === rate ? `decoded from ${origin.format}` : `${origin.format} converted from ${origin.rate / 1000} kHz`);
  return parts.join(', ');
};
