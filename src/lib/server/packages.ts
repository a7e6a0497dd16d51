// Session packages over HTTP: one goes out as a stream, one comes in whole or not at all.
import { randomUUID } from 'node:crypto';
import { mkdir, rm } from 'node:fs/promises';
import path from 'node:path';
import { openPackage } from '$files/package';
import { ok, type Result } from '$core/result';
import { refuse } from '$core/result';
import { settingsOf } from '$core/session/entities';
import { DISK_FULL, isDiskFull } from './failures';
import { receive, type MediaStore } from './media';
import type { Sessions } from './sessions';

/** Takes a package in as a new session; its id. */
export async function takePackage(
  body: ReadableStream<Uint8Array>,
  directory: string,
  sessions: Sessions,
  media: MediaStore
): Promise<Result<{ readonly id: string; readonly name: string }>> {
  const work = path.join(directory, 'incoming', randomUUID());
  try {
    await mkdir(work, { recursive: true });
    const file = path.join(work, 'package.zip');
    const received = await receive(body, file);
    if (!received.ok) return received;
    const opened = await openPackage(file, path.join(work, 'audio'));
    if (!opened.ok) return opened;
    for (const [sha256, recording] of opened.value.files) {
      const kept = await media.keep(recording, sha256);
      if (!kept.ok) return kept;
    }
    const id = randomUUID();
    await sessions.adopt(id, opened.value.session);
    return ok({ id, name: settingsOf(opened.value.session).name });
  } catch (error) {
    if (isDiskFull(error)) return refuse('disk-full', DISK_FULL);
    throw error;
  } finally {
    await rm(work, { recursive: true, force: true });
  }
}
