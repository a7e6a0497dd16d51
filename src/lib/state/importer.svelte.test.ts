// Import in the page against a stand-in for the browser's uploads: what becomes tracks, what is refused and why, converting, cancelling.
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { emptyDesk } from '../../../tests/oracle/rig';
import { pageDesk } from '../../../tests/oracle/page';
import { createImporter } from './importer.svelte';

type Reply = { status: number; body: unknown } | 'unreachable' | 'hangs';
/** What the server says to a file, by name; with `?convert=1` where that was agreed to. */
let replies: Record<string, Reply>;
let sent: string[] = [];

class Upload {
  upload: Record<string, (event: object) => void> = {};
  status = 0;
  responseText = '';
  onload = () => {};
  onerror = () => {};
  onabort = () => {};
  private url = '';
  open = (_: string, url: string) => (this.url = url);
  setRequestHeader = () => {};
  abort = () => this.onabort();
  send = (file: File) =>
    queueMicrotask(() => {
      sent.push(this.url.split('/media')[1]);
      this.upload.onprogress({ loaded: file.size });
      this.upload.onload({});
      const reply = replies[file.name + (this.url.includes('convert=1') ? '?convert=1' : '')];
      if (reply === 'hangs') return;
      if (reply === 'unreachable') return this.onerror();
      this.status = reply.status;
      this.responseText = JSON.stringify(reply.body);
      this.onload();
    });
}

const taken = (name: string, more: object = {}): Reply => ({
  status: 201,
  body: {
    ...{
      id: `m-${name.replaceAll(' ', '-')}`,
      name,
      // Other names stand for other contents.
      sha256: Buffer.from(name).toString('hex').padEnd(64, '0').slice(0, 64),
      rate: 48000,
      channels: 1,
      frames: 100,
      encoding: 's24',
      peakDb: -3
    },
    ...{ origin: null, loudness: null, timeReference: null, ...more }
  }
});
const refused = (code: string, message: string): Reply => ({ status: 422, body: { error: { code, message } } });
const files = (...names: string[]) => names.map((name) => new File(['audio'], name));

beforeEach(() => {
  sent = [];
  vi.stubGlobal('XMLHttpRequest', Upload);
});
afterEach(() => vi.unstubAllGlobals());

const begin = () => {
  const { desk, said } = pageDesk(emptyDesk());
  const tracks = () => [...desk.store.session.channel.values()].filter(({ kind }) => kind === 'track').map(({ name }) => name);
  return { store: desk.store, importer: createImporter(desk.store), tracks, said };
};

describe('import', () => {
  it('makes tracks of what is taken, in one step, and closes its report where nothing went wrong', async () => {
    replies = { 'Kick 1.wav': taken('Kick 1.wav'), 'hall.wav': taken('hall.wav', { channels: 3 }) };
    const { importer, tracks, store, said } = begin();
    await importer.add(files('Kick 1.wav', 'hall.wav'));
    // Of a recording of three channels each is a track.
    expect([said(), tracks()]).toEqual(['', ['Kick 1', 'hall 1', 'hall 2', 'hall 3']]);
    expect([importer.open, importer.running]).toEqual([false, false]);
    expect(sent).toEqual(['?name=Kick%201.wav', '?name=hall.wav']);
    await vi.waitFor(() => expect(store.saving).toBe('saved'), { timeout: 120_000 });
    expect(store.history.undo?.label).toBe('Import 4 tracks');
  });

  it('keeps what was taken beside what was refused, says why, and converts where one agrees', async () => {
    replies = {
      'a.wav': taken('a.wav'),
      'b.wav': refused('rate', 'b.wav has 44100 Hz, this session 48000 Hz.'),
      'b.wav?convert=1': taken('b.wav', { origin: { format: 'WAV', rate: 44100, sha256: '1'.repeat(64) } }),
      'c.txt': refused('not-audio', 'c.txt is no audio file.'),
      'd.wav': 'unreachable'
    };
    const { importer, tracks } = begin();
    await importer.add(files('a.wav', 'b.wav', 'c.txt', 'd.wav'));
    expect(tracks()).toEqual(['a']);
    expect(importer.open).toBe(true);
    expect(importer.items.map(({ state }) => state)).toEqual(['taken', 'refused', 'refused', 'refused']);
    expect(importer.items.map(({ message }) => message).slice(1)).toEqual([
      'b.wav has 44100 Hz, this session 48000 Hz.',
      'c.txt is no audio file.',
      'The server did not answer. Try this file again.'
    ]);
    expect(importer.convertible).toBe(1);
    await importer.convert();
    expect(sent.at(-1)).toBe('?name=b.wav&convert=1');
    expect(importer.items[0].message).toContain('WAV converted from 44.1 kHz');
    expect(tracks()).toEqual(['a', 'b']);
  });

  it('asks once before it brings in what stands in the session already, and says where that is', async () => {
    const hash = { sha256: 'a'.repeat(64) };
    replies = { 'Kick 1.wav': taken('Kick 1.wav', hash), 'Kick copy.wav': taken('Kick copy.wav', hash), 'new.wav': taken('new.wav') };
    const { importer, tracks, store } = begin();
    await importer.add(files('Kick 1.wav'));
    await importer.add(files('Kick copy.wav', 'new.wav'));
    expect(tracks()).toEqual(['Kick 1', 'new']);
    expect([importer.known, importer.open, importer.items[0].message]).toEqual([1, true, 'Stands in the session already: on Kick 1.']);
    importer.leaveOut();
    expect([importer.known, importer.items[0].state, tracks().length]).toEqual([0, 'cancelled', 2]);
    await importer.add(files('Kick copy.wav'));
    importer.bringAgain();
    expect([tracks(), importer.open]).toEqual([['Kick 1', 'new', 'Kick copy'], false]);
    // Each track shows the name that its file had.
    expect([...store.session.media.values()].map(({ name }) => name)).toEqual(['Kick 1.wav', 'new.wav', 'Kick copy.wav']);
  });

  it('takes what is there of a file that was cut off when one says so', async () => {
    replies = { 'a.wav': refused('truncated', 'The file promises 2.0 s.'), 'a.wav?convert=1': taken('a.wav') };
    const { importer, tracks } = begin();
    await importer.add(files('a.wav'));
    expect([importer.cutOff, tracks()]).toEqual([1, []]);
    await importer.keep();
    expect(sent.at(-1)).toBe('?name=a.wav&convert=1&keep=1');
    expect(tracks()).toEqual(['a']);
  });

  it('makes nothing of a cancelled import, and takes no second one meanwhile', async () => {
    replies = { 'a.wav': taken('a.wav'), 'b.wav': 'hangs', 'c.wav': taken('c.wav') };
    const { importer, tracks, said } = begin();
    const whole = importer.add(files('a.wav', 'b.wav', 'c.wav'));
    await vi.waitFor(() => expect(importer.items.map(({ state }) => state)).toEqual(['taken', 'checking', 'waiting']), {
      timeout: 120_000
    });
    await importer.add(files('late.wav'));
    expect(said()).toContain('An import is running');
    importer.cancel();
    await whole;
    expect(importer.items.map(({ state }) => state)).toEqual(['cancelled', 'cancelled', 'cancelled']);
    expect([tracks(), importer.running]).toEqual([[], false]);
  });

  it('hands recordings to another use, and to it again after converting', async () => {
    replies = { 'a.wav': refused('rate', 'Another rate.'), 'a.wav?convert=1': taken('a.wav') };
    const { importer, tracks } = begin();
    const used: string[] = [];
    const then = (list: readonly { name: string }[]) => used.push(...list.map(({ name }) => name)) > 0;
    await importer.add(files('a.wav'), { then });
    await importer.convert();
    expect([used, tracks()]).toEqual([['a.wav'], []]);
  });
});
