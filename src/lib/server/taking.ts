// Printed files that go back into sessions: what a bus or return sounds like as a track in its place, stems as a session of their own.
import { randomUUID } from 'node:crypto';
import { openAsBlob } from 'node:fs';
import path from 'node:path';
import type { Command } from '$core/commands/index';
import { stemSession, type Fed } from '$core/prints/onward';
import type { PrintOrder } from '$core/prints/order';
import { ok, refuse, type Result } from '$core/result';
import { settingsOf, type Media } from '$core/session/entities';
import { decodeSession } from '$core/session/tables';
import type { PrintedFile } from '$files/prints/job';
import type { MediaStore } from './media';
import type { Prints } from './prints';
import type { Sessions } from './sessions';

/** Takes a printed file into the store, as any recording is. */
async function kept(media: MediaStore, file: string, name: string, rate: number): Promise<Result<Media>> {
  const taken = await media.add(name, (await openAsBlob(file)).stream() as ReadableStream<Uint8Array>, rate, false);
  return taken.ok ? ok(taken.value.media as Media) : taken;
}

/** Brings the files of an order back as tracks, as one undo entry; what is said of it. */
export async function takeBack(
  { sessions, media }: { readonly sessions: Sessions; readonly media: MediaStore },
  sessionId: string,
  { take, ranges }: PrintOrder,
  { files, rate }: { readonly files: readonly PrintedFile[]; readonly rate: number },
  folder: string
): Promise<string[]> {
  const base = await sessions.read(sessionId, ({ revision }) => revision);
  if (base === null) return ['The session is gone: nothing came back as a track.'];
  const each = files.length / Math.max(1, ranges.length);
  const silent = files.filter(({ peakDb }) => peakDb === -Infinity).map(({ title }) => title);
  const commands: Command[] = [];
  for (const [i, file] of files.entries()) {
    if (file.peakDb === -Infinity) continue;
    const row = await kept(media, path.join(folder, file.name), file.name, rate);
    if (!row.ok) return [`It could not be brought back: ${row.error.message}`];
    const start = ranges[Math.floor(i / each)]?.from ?? 0;
    const rest = take === 'resting' && files.findLastIndex(({ id }) => id === file.id) === i;
    commands.push({ do: 'tracks.take', id: randomUUID(), of: file.id, media: row.value as never, start, rest });
  }
  const said = silent.length ? [`${silent.join(', ')} made no sound and did not come back.`] : [];
  if (commands.length === 0) return said;
  const done = await sessions.carryOut(sessionId, { base, id: randomUUID(), commands });
  if (!done.ok) return [...said, `It could not be brought back: ${done.error.message}`];
  const taken = commands.map((command) => (command as { of: string }).of);
  const names = await sessions.read(sessionId, ({ session }) =>
    [...new Set(taken.map((of) => session.channel.get(of)?.name ?? ''))].join(', ')
  );
  const rest = take === 'resting' ? ', and rests itself' : '';
  return [...said, `${names ?? 'It'} is in the session again as a track, muted${rest}. Undo takes it back out.`];
}

/** Opens a job's stems as a new session; its id. */
export async function openStems(
  { sessions, media, prints }: { readonly sessions: Sessions; readonly media: MediaStore; readonly prints: Prints },
  id: string
): Promise<Result<{ readonly id: string; readonly name: string }>> {
  const [print, onward] = await Promise.all([prints.get(id), prints.onward(id)]);
  if (!print) return refuse('not-found', 'There is no print of this id.');
  if (print.status !== 'done' || !onward)
    return refuse('not-found', 'These stems cannot be opened: the print is not done, or was made before this was possible. Print again.');
  const release = prints.hold(id);
  try {
    const { ranges } = print.order;
    const each = print.files.length / Math.max(1, ranges.length);
    const fed: Fed[] = [];
    for (const [i, file] of print.files.entries()) {
      const feed = onward.feeds.find(({ kind, id: of }) => kind === file.kind && of === file.of);
      const found = feed && (await prints.file(id, file.id));
      if (!feed || !found) continue;
      const row = await kept(media, found.file, file.name, print.rate);
      if (!row.ok) return row;
      fed.push({ feed, media: { ...row.value, id: `${file.id}` }, start: ranges[Math.floor(i / each)]?.from ?? 0 });
    }
    const session = decodeSession(onward.document);
    const name = `${settingsOf(session).name} – stems`;
    const made = stemSession({ session, feeds: onward.feeds, end: onward.end }, fed, name);
    if (!made.ok) return made;
    const fresh = randomUUID();
    await sessions.adopt(fresh, made.value);
    return ok({ id: fresh, name });
  } finally {
    release();
  }
}
