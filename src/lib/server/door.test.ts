// The door: loopback is free, elsewhere a passphrase, few tries, and only our own names.
import { expect, it } from 'vitest';
import { makeDoor } from './door';

it('lets everyone in on loopback, under its own names only', async () => {
  const door = await makeDoor('127.0.0.1', '', []);
  expect(door.guarded).toBe(false);
  expect(door.admits(undefined)).toBe(true);
  expect(['127.0.0.1:4747', 'localhost:4747', '[::1]:4747'].map(door.knows)).toEqual([true, true, true]);
  expect(['evil.example:4747', '192.168.1.7:4747', ''].map(door.knows)).toEqual([false, false, false]);
});

it('asks for the passphrase elsewhere, and after five wrong ones for a minute’s patience', async () => {
  const door = await makeDoor('0.0.0.0', 'steel pans at midnight', ['studio.local']);
  expect(['192.168.1.7:4747', 'studio.local', 'evil.example'].map(door.knows)).toEqual([true, true, false]);
  expect([door.admits(undefined), door.admits('x'), door.admits('0'.repeat(64))]).toEqual([false, false, false]);
  const { entry, token } = await door.tryPassphrase('steel pans at midnight', 0);
  expect(entry).toBe('open');
  expect(door.admits(token)).toBe(true);
  const wrong = await Promise.all(Array.from({ length: 8 }, (_, i) => door.tryPassphrase(`guess ${i}`, 1000)));
  expect(wrong.map((tried) => tried.entry)).toEqual([...Array(5).fill('wrong'), 'wait', 'wait', 'wait']);
  expect((await door.tryPassphrase('steel pans at midnight', 2000)).entry).toBe('wait');
  expect((await door.tryPassphrase('steel pans at midnight', 62_000)).entry).toBe('open');
});
