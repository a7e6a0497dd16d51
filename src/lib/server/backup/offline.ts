// Backup and restoration without a server: the data directory is taken for as long as it lasts, and by nobody else.
import { createWriteStream, mkdirSync } from 'node:fs';
import { rename, rm, stat } from 'node:fs/promises';
import path from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { Result } from '$core/result';
import { openDatabase } from '../db/database';
import { migrate } from '../db/migrate';
import { lockDirectory } from '../lock';
import { openMediaStore } from '../media';
import { dataDirectory } from '../paths';
import { createSessions } from '../sessions';
import { restoreBackup, type Restored, type Target } from './restore';
import { backupStream, type Backed } from './write';

/** Nobody else removes anything. */
const hold = () => () => undefined;

/** Opens the data directory for `work`; throws in words where another Isotaxis uses it. */
async function withData<T>(work: (target: Target) => Promise<T>): Promise<T> {
  const directory = dataDirectory();
  const unlock = await lockDirectory(directory);
  try {
    mkdirSync(path.join(directory, 'database'), { recursive: true });
    const database = await openDatabase(path.join(directory, 'database'));
    try {
      await migrate(database);
      const media = await openMediaStore(directory);
      try {
        const recording = async (sha256: string) => (await media.stored(sha256))?.info ?? null;
        return await work({ directory, database, media, sessions: createSessions(database, { recording }) });
      } finally {
        await media.close();
      }
    } finally {
      await database.close();
    }
  } finally {
    await unlock();
  }
}

/** Writes a backup of `ISOTAXIS_DATA` to `file`, whole or not at all; its bytes. */
export const writeBackup = (file: string): Promise<Backed & { readonly bytes: number; readonly directory: string }> =>
  withData(async ({ directory, database, media }) => {
    const part = `${file}.part`;
    let backed: Backed = { made: '', missing: [], damaged: [], names: {} };
    try {
      const done = (told: Backed) => (backed = told);
      const stream = await backupStream({ directory, database, recordingFile: media.fileOf, hold, done });
      await pipeline(stream, createWriteStream(part, { flush: true } as object));
      await rename(part, file);
    } finally {
      await rm(part, { force: true });
    }
    return { ...backed, bytes: (await stat(file)).size, directory };
  });

/** Restores `file` into `ISOTAXIS_DATA`. */
export const readBackup = (file: string): Promise<Result<Restored & { readonly directory: string }>> =>
  withData(async (target) => {
    const restored = await restoreBackup(file, target, { busy: () => null, hold });
    return restored.ok ? { ok: true, value: { ...restored.value, directory: target.directory } } : restored;
  });
