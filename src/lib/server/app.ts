// The running server: lock, database, store, jobs, demo; opened once, closed once.
import path from 'node:path';
import { mkdirSync } from 'node:fs';
import pino from 'pino';
import { Piscina } from 'piscina';
import { createBackups, type Backups } from './backup/backups';
import { openDatabase, type Database } from './db/database';
import { migrate } from './db/migrate';
import { createLibrary, type Library } from './library';
import { lockDirectory } from './lock';
import { openMediaStore, type MediaStore } from './media';
import { isLoopback, makeDoor, PASSPHRASE_LEAST, type Door } from './door';
import { builtFile, dataDirectory } from './paths';
import { openPrints, type Prints } from './prints';
import { createSessions, type Sessions } from './sessions';
import { seedDemo } from './seed';
import { createShelf, type Shelf } from './shelf';
import { createStorage, type Storage } from './storage';
import { takeBack } from './taking';

export type App = {
  readonly database: Database;
  readonly sessions: Sessions;
  readonly media: MediaStore;
  readonly library: Library;
  readonly prints: Prints;
  readonly shelf: Shelf;
  readonly storage: Storage;
  readonly backups: Backups;
  readonly door: Door;
  readonly close: () => Promise<void>;
};

export const log = pino({ level: process.env.LOG_LEVEL ?? 'info', base: null });

/** Host names separated by commas. */
const namesIn = (text = '') =>
  text
    .split(',')
    .map((name) => name.trim())
    .filter(Boolean);

/** Nobody beyond this machine comes in without a passphrase: neither straight, nor through a proxy that knows a name of it. */
function refuseOpenDoor(host: string, names: readonly string[], passphrase: string): void {
  if (passphrase.length >= PASSPHRASE_LEAST) return;
  const least = `at least ${PASSPHRASE_LEAST} characters`;
  if (!isLoopback(host))
    throw new Error(`HOST is ${host}, so others could reach this Isotaxis. Set ISOTAXIS_PASSPHRASE to ${least}, or leave HOST away.`);
  const name = names.find((each) => !isLoopback(each.toLowerCase()));
  if (name !== undefined)
    throw new Error(
      `ISOTAXIS_NAMES has ${name}, so others could reach this Isotaxis by that name. Set ISOTAXIS_PASSPHRASE to ${least}, or leave ISOTAXIS_NAMES away.`
    );
  if (passphrase) throw new Error(`ISOTAXIS_PASSPHRASE is too short. Set ${least}, or leave it away.`);
}

async function openApp(): Promise<App> {
  const directory = dataDirectory();
  const host = process.env.HOST ?? '127.0.0.1';
  const passphrase = process.env.ISOTAXIS_PASSPHRASE ?? '';
  const names = namesIn(process.env.ISOTAXIS_NAMES);
  refuseOpenDoor(host, names, passphrase);
  const passphrases = new Piscina({ filename: builtFile('threads/passphrase.js'), minThreads: 0, maxThreads: 1, idleTimeout: 5000 });
  const door = await makeDoor(host, passphrase, names, { verify: (asked) => passphrases.run(asked) as Promise<boolean> });
  const unlock = await lockDirectory(directory, (why) => {
    log.fatal(`${why} This one stops, so that nothing is written that could not be kept.`);
    console.error(why);
    process.exit(1);
  });
  mkdirSync(path.join(directory, 'database'), { recursive: true });
  const database = await openDatabase(path.join(directory, 'database'));
  await migrate(database);
  const media = await openMediaStore(directory);
  const sessions = createSessions(database, {
    failed: (error) => log.warn({ error: String(error) }, 'a listener was dropped'),
    recording: async (sha256) => (await media.stored(sha256))?.info ?? null
  });
  const prints = await openPrints(directory, database, media, {
    failed: (error) => log.error({ error: String(error) }, 'a print could not be ended yet'),
    take: (...what) => takeBack({ sessions, media }, ...what)
  });
  await seedDemo(database, sessions, media);
  const shelf = createShelf(database, sessions, media, prints, (error) =>
    log.error({ error: String(error) }, 'the bin could not be looked through')
  );
  await shelf.empty();
  const storage = createStorage(directory, database, sessions, media, prints);
  return {
    database,
    sessions,
    library: createLibrary(database),
    media,
    prints,
    shelf,
    storage,
    backups: createBackups({ directory, database, media, sessions }, prints, storage),
    door,
    close: async () => {
      shelf.close();
      await prints.close();
      await media.close();
      await database.close();
      await passphrases.destroy();
      await unlock();
    }
  };
}

const holder = globalThis as { isotaxis?: Promise<App> };

/** The one app of this process; opened at the first call. */
export const app = (): Promise<App> => (holder.isotaxis ??= openApp());
