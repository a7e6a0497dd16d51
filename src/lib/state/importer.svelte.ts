// Import: files go up one after another, each is taken or refused with words; what was taken becomes tracks in one step.
import type { Command } from '$core/commands/index';
import type { Media } from '$core/session/entities';
import { refusalIn } from './api';
import type { SessionStore } from './session.svelte';

export type ImportItem = {
  readonly name: string;
  readonly size: number;
  /** 0 … 1 of the bytes sent. */
  sent: number;
  state: 'waiting' | 'sending' | 'checking' | 'taken' | 'refused' | 'cancelled';
  message: string;
};

export type Importer = ReturnType<typeof createImporter>;

export function createImporter(store: SessionStore) {
  let items = $state<ImportItem[]>([]);
  let running = $state(false);
  let open = $state(false);
  let current: XMLHttpRequest | null = null;
  let cancelled = false;
  let began = 0;
  let secondsLeft = $state<number | null>(null);

  /** Sends one file; the answer says what it holds or what is wrong with it. */
  const upload = (file: File, item: ImportItem): Promise<Media | null> =>
    new Promise((resolve) => {
      const request = new XMLHttpRequest();
      current = request;
      request.open('PUT', `/api/sessions/${store.id}/media?name=${encodeURIComponent(file.name)}`);
      request.setRequestHeader('Content-Type', 'application/octet-stream');
      request.upload.onprogress = ({ loaded }) => {
        item.sent = file.size ? loaded / file.size : 1;
        estimate();
      };
      request.upload.onload = () => (item.state = 'checking');
      const refuse = (message: string) => {
        Object.assign(item, { state: cancelled ? 'cancelled' : 'refused', message: cancelled ? 'Cancelled.' : message, sent: 1 });
        resolve(null);
      };
      request.onerror = () => refuse('The server did not answer. Try this file again.');
      request.onabort = () => refuse('Cancelled.');
      request.onload = () => {
        if (request.status !== 201) return refuse(refusalIn(request.responseText).message);
        const media = JSON.parse(request.responseText) as Omit<Media, 'peakDb'> & { peakDb: number | null };
        Object.assign(item, { state: 'taken', sent: 1, message: described(media) });
        resolve({ ...media, peakDb: media.peakDb ?? -Infinity });
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

  const add = async (files: readonly File[]) => {
    if (files.length === 0) return;
    if (running) return store.say('An import is running. Wait for it, or cancel it, then add these files.');
    items = files.map((file) => ({ name: file.name, size: file.size, sent: 0, state: 'waiting', message: '' }));
    running = open = true;
    cancelled = false;
    began = performance.now();
    const taken: { name: string; media: Media }[] = [];
    for (const [i, file] of files.entries()) {
      if (cancelled) {
        Object.assign(items[i], { state: 'cancelled', message: 'Cancelled.' });
        continue;
      }
      const media = await upload(file, items[i]);
      if (media) taken.push({ name: trackName(file.name), media });
    }
    running = false;
    secondsLeft = null;
    if (cancelled && taken.length) {
      for (const item of items)
        if (item.state === 'taken') Object.assign(item, { state: 'cancelled', message: 'Cancelled; not made a track.' });
    } else if (taken.length) {
      const tracks = taken.map(({ name, media }) => ({ id: crypto.randomUUID(), name, colour: 7, media }));
      const planned = store.act([{ do: 'tracks.add', tracks } as Command]);
      if (planned && items.every((item) => item.state === 'taken')) open = false;
    }
  };

  return {
    add,
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

/** A track's first name is the file's, without its ending. */
const trackName = (file: string) =>
  file
    .replace(/\.[^.]+$/, '')
    .trim()
    .slice(0, 120) || 'Unnamed';

const described = (media: { channels: number; rate: number; frames: number; encoding: string }) =>
  `${media.channels === 1 ? 'mono' : 'stereo'}, ${media.rate / 1000} kHz, ${media.encoding === 'f32' ? '32-bit float' : `${media.encoding.slice(1)} bit`}, ${(media.frames / media.rate).toFixed(1)} s`;
