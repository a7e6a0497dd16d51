// What is kept across reloads: by whom it is owned, who adopts it, what is set aside, and a storage that is full.
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { CODES, type Code } from '$core/codes';
import { fateOf, type Batch } from '$core/sync/wire';
import { keepOutbox } from './outbox';

/** The browser's storage, with room for so many letters, and its locks, held until a page is gone. */
function browser(room = Infinity) {
  const items = new Map<string, string>();
  const held = new Map<string, () => void>();
  const localStorage = {
    get length() {
      return items.size;
    },
    key: (i: number) => [...items.keys()][i] ?? null,
    getItem: (name: string) => items.get(name) ?? null,
    setItem: (name: string, text: string) => {
      if (text.length > room) throw new DOMException('full', 'QuotaExceededError');
      items.set(name, text);
    },
    removeItem: (name: string) => void items.delete(name)
  };
  const request = async (name: string, second: unknown, third?: (lock: object | null) => unknown) => {
    const work = (third ?? second) as (lock: object | null) => unknown;
    if (third && held.has(name)) return work(null);
    const whole = work({ name });
    held.set(name, () => undefined);
    await whole;
    held.delete(name);
  };
  vi.stubGlobal('localStorage', localStorage);
  vi.stubGlobal('navigator', { locks: { request } });
  return { items, leave: (name: string) => held.delete(name) };
}

const batch = (id: string, level: number): Batch => ({ id, gesture: null, commands: [{ do: 'faders.set', levels: [{ id: 'a', level }] }] });
let page: ReturnType<typeof browser>;
beforeEach(() => (page = browser()));
afterEach(() => vi.unstubAllGlobals());

describe('the outbox in the browser’s storage', () => {
  it('is adopted by the next page once its owner is gone, and by nobody while it lives', async () => {
    const first = keepOutbox('s');
    expect(first.save([batch('one', -Infinity), batch('two', -3)])).toBe(true);
    const [name] = page.items.keys();
    const second = keepOutbox('s');
    expect(await second.adopt()).toEqual([]);
    page.leave(name);
    // Another session’s list is none of this one’s business.
    expect(await keepOutbox('other').adopt()).toEqual([]);
    const left = await second.adopt();
    expect(left.map(({ id }) => id)).toEqual(['one', 'two']);
    // −∞ travels as a word that every command understands.
    expect(left[0].commands).toEqual([{ do: 'faders.set', levels: [{ id: 'a', level: '-inf' }] }]);
    expect(await second.adopt()).toEqual([]);
  });

  it('is adopted over plain HTTP too, where pages have no locks and ask each other', async () => {
    const channels = new Set<{ onmessage?: (event: { data: unknown }) => void }>();
    class Channel {
      onmessage?: (event: { data: unknown }) => void;
      constructor() {
        channels.add(this);
      }
      postMessage(data: unknown) {
        for (const other of channels) if (other !== this) queueMicrotask(() => channels.has(other) && other.onmessage?.({ data }));
      }
    }
    vi.stubGlobal('navigator', {});
    vi.stubGlobal('BroadcastChannel', Channel);
    const first = keepOutbox('s');
    const [firstPage] = channels;
    first.save([batch('one', -1)]);
    const second = keepOutbox('s');
    expect(await second.adopt()).toEqual([]);
    channels.delete(firstPage);
    expect((await second.adopt()).map(({ id }) => id)).toEqual(['one']);
    expect(page.items.size).toBe(0);
  });

  it('leaves nothing behind when all is acknowledged, and keeps what is set aside until somebody decides', () => {
    const keeper = keepOutbox('s');
    keeper.save([batch('one', -1)]);
    keeper.save([]);
    expect(page.items.size).toBe(0);
    const aside = [{ id: 'one', label: 'Fader', why: 'It cannot be kept.', commands: batch('one', -1).commands }];
    expect(keeper.saveAside(aside)).toBe(true);
    // After a reload, and in every page of the session.
    expect(keepOutbox('s').aside()).toEqual(aside);
    expect(keepOutbox('other').aside()).toEqual([]);
    keeper.saveAside([]);
    expect(keeper.aside()).toEqual([]);
  });

  it('says where there is no room, and lets any other fault be heard', () => {
    browser(300);
    const keeper = keepOutbox('s');
    expect(keeper.save([batch('one', -1)])).toBe(true);
    expect(keeper.save(Array.from({ length: 50 }, (_, i) => batch(`b${i}`, -i)))).toBe(false);
    vi.stubGlobal('localStorage', {
      setItem: () => {
        throw new Error('torn');
      }
    });
    expect(() => keeper.save([batch('two', -2)])).toThrow('torn');
  });
});

it('every code has a fate: nothing that the server may say blocks the rest for ever', () => {
  const fates = (Object.keys(CODES) as Code[]).map((code) => [code, fateOf({ code, message: '' })] as const);
  // What is tried again is not about the batch: nobody answered, or somebody has to let this page in.
  expect(fates.filter(([, fate]) => fate === 'try again').map(([code]) => code)).toEqual([
    'passphrase',
    'wait',
    'too-slow',
    'offline',
    'unavailable'
  ]);
  expect(fates.filter(([, fate]) => fate === 'try a few times')).toEqual([['server', 'try a few times']]);
  for (const code of ['loop', 'exists', 'overtaken', 'not-found', 'changes-sound']) expect(Object.fromEntries(fates)[code]).toBe('refused');
  for (const code of ['disk-full', 'invalid', 'too-large', 'no-session']) expect(Object.fromEntries(fates)[code]).toBe('set aside');
  for (const status of Object.values(CODES)) expect(status).toBeGreaterThanOrEqual(400);
});
