// Backups of a running server: made as a stream, restored from one, never while prints or another restoration would be in between.
import { randomUUID } from 'node:crypto';
import { rm } from 'node:fs/promises';
import path from 'node:path';
import type { Readable } from 'node:stream';
import { refuse, type Refusal, type Result } from '$core/result';
import { DISK_FULL, isDiskFull } from '../failures';
import { receive } from '../media';
import type { Prints } from '../prints';
import type { Storage } from '../storage';
import { restoreBackup, type Restored, type Target } from './restore';
import { backupStream } from './write';

/** The largest backup taken in, bytes. */
const MOST = 2 ** 44;

export type Backups = {
  readonly write: () => Promise<Readable>;
  readonly restore: (body: ReadableStream<Uint8Array>) => Promise<Result<Restored>>;
};

export function createBackups(target: Target, prints: Prints, storage: Storage): Backups {
  const { directory, database, media } = target;
  let restoring = false;
  const busy = (): Refusal | null =>
    prints.isIdle() ? null : { code: 'busy', message: 'A print is under way. Wait for it, or cancel it, then restore the backup.' };
  return {
    write: async () => {
      const release = await storage.hold();
      try {
        const source = { directory, database, recordingFile: media.fileOf, hold: prints.hold, done: storage.backed };
        const stream = await backupStream(source);
        stream.on('close', release);
        return stream;
      } catch (error) {
        release();
        throw error;
      }
    },
    restore: async (body) => {
      if (restoring) return refuse('busy', 'A backup is being restored already. Wait for it.');
      const printing = busy();
      if (printing) return { ok: false, error: printing };
      restoring = true;
      const release = await storage.hold();
      const file = path.join(directory, 'incoming', randomUUID());
      try {
        const received = await receive(body, file, MOST);
        return received.ok ? await restoreBackup(file, target, { busy, hold: prints.hold }) : received;
      } catch (error) {
        if (isDiskFull(error)) return refuse('disk-full', DISK_FULL);
        throw error;
      } finally {
        restoring = false;
        release();
        await rm(file, { force: true });
      }
    }
  };
}
