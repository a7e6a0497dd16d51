// Session packages over HTTP: one goes out as a stream, one comes in whole or not at all, opened in a thread of its own.
import { randomUUID } from 'node:crypto';
import { mkdir, rm } from 'node:fs/promises';
import path from 'node:path';
import { Piscina } from 'piscina';
import { ok, refuse, type Result } from '$core/result';
import type { Opened } from '$files/package';
import { settingsOf } from '$core/session/entities';
import { DISK_FULL, isDiskFull } from './failures';
import { receive, type MediaStore } from './media';
import { builtFile } from './paths';
import type { Sessions } from './sessions';

const MOST_MB = 1024;
let pool: Piscina | null = null;

/** Opens a package in its thread; what needs more memory than any session is refused. */
async function open(file: string, folder: string): Promise<Result<Opened>> {
  pool ??= new Piscina({
    filename: builtFile('threads/unpack.js'),
    minThreads: 0,
    maxThreads: 1,
    idleTimeout: 5000,
    resourceLimits: { maxOldGenerationSizeMb: MOST_MB }
  });
  try {
    return (await pool.run({ file, folder })) as Result<Opened>;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ERR_WORKER_OUT_OF_MEMORY')
      return refuse('too-large', 'The package holds more rows than a session can have. Nothing of it was taken.');
    throw error;
  }
}

/** Takes a package in as a new session; its id. */
export async function takePackage(
  body: ReadableStream<Uint8Array>,
  directory: string,
  sessions: Sessions,
  media: MediaStore
): Promise<Result<{ readonly id: string; readonly name: string; readonly mended: readonly string[] }>> {
  const work = path.join(directory, 'incoming', randomUUID());
  try {
    await mkdir(work, { recursive: true });
    const file = path.join(work, 'package.zip');
    const received = await receive(body, file);
    if (!received.ok) return received;
    const opened = await open(file, path.join(work, 'audio'));
    if (!opened.ok) return opened;
    for (const [sha256, recording] of opened.value.files) {
      const kept = await media.keep(recording, sha256);
      if (!kept.ok) return kept;
    }
    const id = randomUUID();
    await sessions.adopt(id, opened.value.session);
    return ok({ id, name: settingsOf(opened.value.session).name, mended: opened.value.mended });
  } catch (error) {
    if (isDiskFull(error)) return refuse('disk-full', DISK_FULL);
    throw error;
  } finally {
    await rm(work, { recursive: true, force: true });
  }
}
