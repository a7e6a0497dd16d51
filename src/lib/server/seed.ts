// First start: synthesises the demo's recordings, puts them into the store, and makes its three sessions.
import { Worker } from 'node:worker_threads';
import type { Command } from '$core/commands/index';
import { planBatch } from '$core/commands/plan';
import { newSession } from '$core/session/create';
import { commit } from '$core/session/changes';
import type { Media } from '$core/session/entities';
import { finished } from '$demo/finished';
import { halfway } from '$demo/halfway';
import { BPM } from '$demo/score';
import { RATE } from '$demo/voices';
import type { Database } from './db/database';
import type { MediaStore } from './media';
import { builtFile } from './paths';
import type { Sessions } from './sessions';

export const DEMO = 'ferry-shed';
/** In the order in which they are made. */
const DEMOS: readonly (readonly [id: string, name: string, commands: (ids: string[]) => readonly unknown[]])[] = [
  ['ferry-shed-finished', 'Ferry Shed – finished', finished],
  ['ferry-shed-halfway', 'Ferry Shed – half-way', halfway],
  [DEMO, 'Ferry Shed – as it arrived', () => []]
];

/** Each session of the demo whole or not at all: a start that was cut short is made up for by the next. */
export async function seedDemo(database: Database, sessions: Sessions, media: MediaStore): Promise<void> {
  const made = await database.query("select 1 from library where kind = 'demo'");
  if (made.length) return;
  const ids = (await database.query('select id from session')).map(({ id }) => String(id));
  const missing = DEMOS.filter(([id]) => !ids.includes(id));
  // Sessions of somebody's own are there: the demo was made by an older version, and taken away since.
  const theirs = ids.length > 0 && missing.length === DEMOS.length;
  if (!theirs && missing.length) {
    const files = await synthesised(media);
    const tracks = files.map((file, i) => ({ id: `t${i + 1}`, name: file.name.replace(/\.wav$/, ''), colour: 7, media: file }));
    for (const [id, name, commandsFor] of missing) {
      const session = newSession({ rate: RATE, bpm: BPM, name });
      const commands = [{ do: 'tracks.add', tracks }, ...commandsFor(tracks.map((track) => track.id))] as Command[];
      const planned = planBatch(session, commands);
      if (!planned.ok) throw new Error(planned.error.message);
      commit(session, planned.value.changes);
      await sessions.adopt(id, session);
    }
  }
  await database.query("insert into library (kind, name, value) values ('demo', 'made', 'true'::jsonb)");
}

async function synthesised(media: MediaStore): Promise<Media[]> {
  const worker = new Worker(builtFile('threads/synthesise.js'));
  const arriving: Promise<Media>[] = [];
  const take = async (file: string, wav: Uint8Array<ArrayBuffer>): Promise<Media> => {
    const added = await media.add(file, new Blob([wav]).stream(), RATE, false);
    if (!added.ok) throw new Error(`${file}: ${added.error.message}`);
    return added.value.media;
  };
  await new Promise<void>((resolve, reject) => {
    worker.on('message', ({ file, wav }: { file: string; wav: Uint8Array<ArrayBuffer> }) => arriving.push(take(file, wav)));
    worker.on('error', reject);
    worker.on('exit', () => resolve());
  });
  return Promise.all(arriving);
}
