// The door: loopback is free, elsewhere a passphrase; wrong tries slow their own address down and nobody else; only our own names.
import { expect, it } from 'vitest';
import { makeDoor } from './door';

it('lets everyone in on loopback, under its own names only', async () => {
  for (const host of ['127.0.0.1', '::1']) {
    const door = await makeDoor(host, '', []);
    expect(door.guarded).toBe(false);
    expect(door.admits(undefined)).toBe(true);
    expect(['127.0.0.1:4747', 'localhost:4747', '[::1]:4747'].map(door.knows)).toEqual([true, true, true]);
    expect(['evil.example:4747', '192.168.1.7:4747', ''].map(door.knows)).toEqual([false, false, false]);
  }
});

it('asks for a passphrase on loopback too where one is set: a proxy may stand before it', async () => {
  const door = await makeDoor('127.0.0.1', 'steel pans at midnight', ['studio.local']);
  expect([door.guarded, door.admits(undefined)]).toEqual([true, false]);
  expect(['127.0.0.1:4747', 'studio.local', 'evil.example'].map(door.knows)).toEqual([true, true, false]);
  const { token } = await door.tryPassphrase('steel pans at midnight', '127.0.0.1');
  expect(door.admits(token)).toBe(true);
});

/** A door whose clock goes on only where it waits. */
async function clocked() {
  let time = 0;
  const waits: number[] = [];
  const door = await makeDoor('::', 'steel pans at midnight', ['studio.local'], {
    now: () => time,
    sleep: (ms) => {
      waits.push(ms);
      time += ms;
      return Promise.resolve();
    },
    verify: ({ password }) => Promise.resolve(password === 'steel pans at midnight')
  });
  return { door, waits, pass: (ms: number) => (time += ms) };
}

it('slows an address down after wrong tries, and lets the owner in from his own at once', async () => {
  const { door, waits, pass } = await clocked();
  for (let i = 0; i < 10; i++) expect((await door.tryPassphrase(`guess ${i}`, '10.0.0.66')).entry).toBe('wrong');
  expect(waits).toEqual([500, 1000, 2000, 4000, 8000, 15000]);
  expect((await door.tryPassphrase('steel pans at midnight', '10.0.0.7')).entry).toBe('open');
  expect(waits).toHaveLength(6);
  // Every address of one network of IPv6 is one guesser’s.
  for (let i = 0; i < 5; i++) await door.tryPassphrase('no', `2001:db8:0:7::${i}`);
  expect(waits).toHaveLength(7);
  await door.tryPassphrase('no', '2001:db8:0:8::1');
  expect(waits).toHaveLength(7);
  // The right one is slowed down too, never locked out, and after ten quiet minutes all is forgiven.
  expect((await door.tryPassphrase('steel pans at midnight', '10.0.0.66')).entry).toBe('open');
  for (let i = 0; i < 6; i++) await door.tryPassphrase('no', '10.0.0.66');
  pass(601_000);
  waits.length = 0;
  await door.tryPassphrase('no', '10.0.0.66');
  expect(waits).toEqual([]);
});

it('has few tries under way at once, from one address and in all', async () => {
  let open = () => {};
  const held = new Promise<boolean>((resolve) => (open = () => resolve(false)));
  const door = await makeDoor('0.0.0.0', 'steel pans at midnight', [], { verify: () => held });
  const asked = Array.from({ length: 5 }, () => door.tryPassphrase('no', '10.0.0.1'));
  const others = Array.from({ length: 40 }, (_, i) => door.tryPassphrase('no', `10.0.1.${i}`));
  open();
  expect((await Promise.all(asked)).map(({ entry }) => entry)).toEqual(['wrong', 'wrong', 'wrong', 'wait', 'wait']);
  expect((await Promise.all(others)).filter(({ entry }) => entry === 'wrong')).toHaveLength(27);
});

it('gives each login a cookie of its own, which can be ended', async () => {
  const door = await makeDoor('0.0.0.0', 'steel pans at midnight', ['studio.local']);
  expect(['192.168.1.7:4747', 'studio.local', '[2001:db8::1]:4747', 'evil.example'].map(door.knows)).toEqual([true, true, true, false]);
  expect([door.admits(undefined), door.admits('x'), door.admits('0'.repeat(64))]).toEqual([false, false, false]);
  const logins = await Promise.all([1, 2, 3].map((n) => door.tryPassphrase('steel pans at midnight', `10.0.0.${n}`)));
  const [one, two, three] = logins.map(({ token }) => token);
  expect(new Set([one, two, three]).size).toBe(3);
  door.end(one, false);
  door.end('x', true);
  expect([one, two, three].map(door.admits)).toEqual([false, true, true]);
  door.end(two, true);
  expect([one, two, three].map(door.admits)).toEqual([false, false, false]);
});
