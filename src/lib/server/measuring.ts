// Ranges of the mix measured in a thread, one after another.
import { Piscina } from 'piscina';
import * as yup from 'yup';
import { rangeNamed } from '$core/prints/ranges';
import { refuse, type Result } from '$core/result';
import type { Session } from '$core/session/entities';
import { encodeSession } from '$core/session/tables';
import type { RangeLevels, RangeOrder } from '$files/prints/loudness';
import type { MediaStore } from './media';
import { builtFile } from './paths';

let pool: Piscina | null = null;
const whole = () => yup.number().integer().min(0).required();
const span = yup.object({ from: whole(), to: whole() }).noUnknown();

/** How loud a range is: by its name, from a frame to before another, or, with null, all of the session. */
export async function measured(session: Session, asked: unknown, media: MediaStore): Promise<Result<RangeLevels>> {
  let range: RangeOrder['range'] = null;
  if (typeof asked === 'string') {
    const found = rangeNamed(session, asked);
    if (!found) return refuse('not-found', `There is no range called “${asked}”.`, { name: asked });
    range = { from: found.start, to: found.start + found.length };
  } else if (asked !== null && asked !== undefined) {
    if (!span.isValidSync(asked, { strict: true }))
      return refuse('bad-arguments', 'A range is its name, or { from, to } in whole frames from 0 on.');
    range = span.cast(asked);
  }
  const recordings: Record<string, RangeOrder['recordings'][string]> = {};
  for (const row of [...session.media.values()]) {
    const stored = await media.stored(row.sha256);
    if (!stored) return refuse('missing', `The audio of ${row.name} is gone from the store. Import it again.`);
    recordings[row.id] = stored;
  }
  pool ??= new Piscina({ filename: builtFile('threads/measure.js'), minThreads: 0, maxThreads: 1, idleTimeout: 5000 });
  const order: RangeOrder = { document: encodeSession(session), kernel: builtFile('kernel.wasm'), recordings, range };
  return (await pool.run(order)) as Result<RangeLevels>;
}
