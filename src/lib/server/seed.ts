// First start: synthesises the demo's recordings, puts them into the store, and makes its three sessions.
import { Worker } from 'node:worker_threads';
import type { Command } from '$core/commands/index';
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
const HALFWAY = 'ferry-shed-halfway';
const FINISHED = 'ferry-shed-finished';

export async function seedDemo(database: Database, sessions: Sessions, media: MediaStore): Promise<void> {
  const [{ count }] = await database.query('select count(*)::integer as count from session');
  if (Number(count) > 0) return;
  const files = await synthesised(media);
  const ids = files.map((_, i) => `t${i + 1}`);
  const settings = { rate: RATE, bpm: BPM };
  for (const [id, name, commands] of [
    [FINISHED, 'Ferry Shed – finished', finished(ids)],
    [HALFWAY, 'Ferry Shed – half-way', halfway(ids)],
    [DEMO, 'Ferry Shed – as it arrived', []]
  ] as const) {
    await sessions.create(id, { ...settings, name });
    const tracks = files.map((file, i) => ({ id: ids[i], name: file.name.replace(/\.wav$/, ''), colour: 7, media: file }));
    const done = await sessions.carryOut(id, { base: 0, id: `${id}:import`, commands: [{ do: 'tracks.add', tracks }] as Command[] });
    if (!done.ok) throw new Error(done.error.message);
    if (commands.length === 0) continue;
    const prepared = await sessions.carryOut(id, { base: 1, id: `${id}:prepare`, commands });
    if (!prepared.ok) throw new Error(prepared.error.message);
    // The demo begins where its preparation ended.
    await database.query('delete from history where session_id = $1', [id]);
    (await sessions.open(id))!.entries = [];
  }
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
