// The page's session store against a server that plans with the same core: optimistic, in order, and settled by the server.
import { flushSync } from 'svelte';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Command } from '$core/commands/index';
import { decodeSession, encodeSession } from '$core/session/tables';
import { fakeServer } from '../../../tests/oracle/page';
import { carryOut, emptyDesk, trackCommand } from '../../../tests/oracle/rig';
import { createSessionStore, type SessionStore } from './session.svelte';

let server: ReturnType<typeof fakeServer>;
let store: SessionStore;

beforeEach(() => {
  const session = carryOut(emptyDesk(), trackCommand([{ id: 'a' }, { id: 'b' }, { id: 'c' }]), {
    do: 'returns.add',
    id: 'ret',
    name: 'Room'
  });
  server = fakeServer(session);
  vi.stubGlobal(
    'fetch',
    vi.fn((url: unknown, init: RequestInit) => Promise.resolve().then(() => server.answer(url, init)))
  );
  store = createSessionStore('s', {
    revision: 0,
    document: encodeSession(decodeSession(encodeSession(session))),
    history: { undo: null, redo: null }
  });
});
afterEach(() => vi.unstubAllGlobals());

const settled = () => vi.waitFor(() => expect(store.saving).toBe('saved'), { timeout: 120_000 });
const fader = (level: number, id = 'a'): Command => ({ do: 'faders.set', levels: [{ id, level }] });
const equal = () => expect(encodeSession(store.session)).toEqual(encodeSession(server.session));

describe('session store', () => {
  it('shows a move at once, and is saved when the server has answered', async () => {
    store.act([fader(-6)]);
    expect(store.channel('a')!.faderDb).toBe(-6);
    expect(store.saving).toBe('saving');
    await settled();
    equal();
    expect(store.history.undo?.label).toBe('Fader of Track a to −6.0 dB');
  });

  it('sends −∞ as words, and the moves of a drag that wait as one batch', async () => {
    for (let i = 1; i <= 20; i++) store.act([fader(-i)], 'drag');
    store.act([fader(-Infinity)], 'drag');
    await settled();
    expect(server.bodies.length).toBeLessThan(4);
    expect(server.bodies.at(-1)!.commands.at(-1)).toEqual({ do: 'faders.set', levels: [{ id: 'a', level: '-inf' }] });
    expect(server.session.channel.get('a')!.faderDb).toBe(-Infinity);
    equal();
  });

  it('says why a command cannot be done, and sends nothing', async () => {
    expect(store.act([{ do: 'channels.route', ids: ['a'], to: 'b' }])).toBe(false);
    expect(store.notice?.text).toBe('Track b is a track: nothing can be routed into it. Choose a bus.');
    await settled();
    expect(server.bodies).toEqual([]);
  });

  it('takes in what another page did, and plans its own moves upon it', async () => {
    server.apply([fader(-20, 'b'), { do: 'channels.rename', names: [{ id: 'c', name: 'Renamed elsewhere' }] }]);
    store.act([fader(-3)]);
    store.act([{ do: 'mutes.set', ids: ['b'], on: true }]);
    await settled();
    equal();
    expect(store.channel('c')!.name).toBe('Renamed elsewhere');
    expect(store.channel('b')).toMatchObject({ faderDb: -20, mute: true });
  });

  it('takes back a move the server refuses, keeps the others, and says so', async () => {
    server.apply([{ do: 'buses.add', id: 'x', name: 'THEIRS' }]);
    store.act([{ do: 'buses.add', id: 'x', name: 'MINE', members: ['a'] }]);
    store.act([fader(-9, 'b')]);
    await settled();
    expect(store.notice?.text).toBe('Not done: A channel with this id exists already.');
    expect(store.channel('a')!.outputId).toBe('mix');
    expect(store.channel('b')!.faderDb).toBe(-9);
    expect(server.session.channel.get('b')!.faderDb).toBe(-9);
  });

  it('keeps moves while the server is away, and saves them in order when it is back', async () => {
    server.leave();
    store.act([fader(-4)]);
    store.act([fader(-5, 'b')]);
    await vi.waitFor(() => expect(store.saving).toBe('offline'), { timeout: 120_000 });
    server.comeBack();
    await settled();
    expect(server.bodies.map(({ commands }) => commands[0])).toEqual([fader(-4), fader(-5, 'b')]);
    equal();
  });

  it('sets aside what the server cannot take, lets the rest go on, and keeps it until it is tried again or forgotten', async () => {
    server.refuse(422, 'invalid');
    store.act([fader(-7)]);
    store.act([fader(-8, 'b')]);
    await settled();
    equal();
    expect([store.channel('a')!.faderDb, store.channel('b')!.faderDb]).toEqual([0, -8]);
    expect(store.notice?.text).toBe('Not saved: Fader of Track a to −7.0 dB. That went wrong. It is set aside.');
    expect(store.aside.map(({ label, why }) => `${label}: ${why}`)).toEqual(['Fader of Track a to −7.0 dB: That went wrong.']);
    store.retryAside(store.aside[0].id);
    await settled();
    equal();
    expect([store.channel('a')!.faderDb, store.aside.length]).toEqual([-7, 0]);
    // What would be undone is what the server has, not what it refused.
    server.refuse(507, 'disk-full');
    store.act([fader(-Infinity)]);
    await settled();
    expect(store.history.undo?.label).toBe('Fader of Track a to −7.0 dB');
    store.forgetAside(store.aside[0].id);
    expect(store.aside).toEqual([]);
  });

  it('tries again where nobody answered, a few times where the server failed, and then lets the rest go on', async () => {
    vi.useFakeTimers();
    try {
      server.refuse(502, null, 4);
      server.refuse(503, 'unavailable');
      server.refuse(401, 'passphrase');
      store.act([fader(-2)]);
      await vi.advanceTimersByTimeAsync(1000);
      expect(store.saving).toBe('offline');
      await vi.advanceTimersByTimeAsync(20_000);
      expect([store.saving, store.aside.length]).toEqual(['saved', 0]);
      equal();
      server.refuse(500, 'server', 3);
      store.act([fader(-3)]);
      store.act([fader(-4, 'b')]);
      await vi.advanceTimersByTimeAsync(20_000);
      expect([store.saving, store.aside.length]).toEqual(['saved', 1]);
      equal();
      expect(store.channel('b')!.faderDb).toBe(-4);
    } finally {
      vi.useRealTimers();
    }
  });

  it('is not stuck where something between answers instead of the server', async () => {
    vi.useFakeTimers();
    try {
      server.refuse(200, null, 2);
      store.act([fader(-2)]);
      store.act([fader(-3, 'b')]);
      await vi.advanceTimersByTimeAsync(1000);
      expect(store.saving).toBe('offline');
      await vi.advanceTimersByTimeAsync(20_000);
      expect([store.saving, store.aside.length]).toEqual(['saved', 0]);
      equal();
    } finally {
      vi.useRealTimers();
    }
  });

  it('says so where the browser has no room for what is not saved yet', async () => {
    const full = { save: () => false, adopt: () => Promise.resolve([]), aside: () => [], saveAside: () => false };
    const document = encodeSession(server.session);
    store = createSessionStore('s', { revision: 0, document, history: { undo: null, redo: null } }, full);
    store.act([fader(-1)]);
    expect(store.notice?.text).toContain('storage is full');
    expect(store.unkept).toBe(true);
    await settled();
    equal();
  });

  it('wakes just the views of the rows that changed', () => {
    const woken: string[] = [];
    const stop = $effect.root(() => {
      watch('channel a', () => store.channel('a'));
      watch('channel b', () => store.channel('b'));
      watch('no send yet', () => store.send('a', 'ret'));
      watch('tree', () => store.tree);
      watch('heard', () => store.heard);
    });
    const after = (...commands: Command[]) => {
      woken.length = 0;
      store.act(commands);
      flushSync();
      return [...woken].sort();
    };
    function watch(name: string, read: () => unknown) {
      $effect(() => {
        read();
        woken.push(name);
      });
    }
    flushSync();
    expect(after(fader(-2))).toEqual(['channel a']);
    expect(after({ do: 'sends.set', sends: [{ source: 'a', target: 'ret' }] })).toEqual(['heard', 'no send yet']);
    expect(after({ do: 'mutes.set', ids: ['b'], on: true })).toEqual(['channel b', 'heard']);
    expect(after({ do: 'channels.route', ids: ['a'], to: null })).toEqual(['channel a', 'heard', 'tree']);
    stop();
  });
});
