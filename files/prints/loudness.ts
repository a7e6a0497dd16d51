// How loud a range of the mix is, without a file: rendered as it would be printed, from the session's start, and measured.
import { readFileSync } from 'node:fs';
import { kernelModule } from '$core/kernel/kernel';
import { programmeMeter } from '$core/measure/programme';
import { peakMeter } from '$core/measure/truePeak';
import { plannedFiles, readOrder, type Range } from '$core/prints/order';
import { passesOf } from '$core/prints/passes';
import { renderPass, spanOf } from '$core/prints/render';
import { ok, type Result } from '$core/result';
import { settingsOf } from '$core/session/entities';
import { decodeSession, type SessionDocument } from '$core/session/tables';
import { dbOf } from '$core/units';
import { filePcm, type Recordings } from './recordings';

export type RangeOrder = {
  readonly document: SessionDocument;
  /** The built kernel's file. */
  readonly kernel: string;
  readonly recordings: Recordings;
  /** Null is all of the session. */
  readonly range: Range | null;
};
/** dBFS, dBTP, LUFS and LU; null where it is silent, or too short for it. */
export type RangeLevels = {
  readonly peakDb: number | null;
  readonly truePeakDb: number | null;
  readonly lufs: number | null;
  readonly rangeLu: number | null;
};

/** The range without a tail: what sounds in it. Refused where it holds nothing. */
export function measureRange({ document, kernel, recordings, range }: RangeOrder): Result<RangeLevels> {
  const session = decodeSession(document);
  const order = readOrder({ ranges: range ? [range] : [], tail: 'none' });
  if (!order.ok) return order;
  const files = plannedFiles(session, order.value);
  if (!files.ok) return files;
  const [pass] = passesOf(session, files.value);
  const pcm = filePcm(recordings);
  try {
    const programme = programmeMeter(settingsOf(session).rate);
    const peaks = peakMeter();
    const module = kernelModule(readFileSync(kernel));
    for (const { sides } of renderPass(module, pass, pcm.read, spanOf(pass, order.value, range), 'none', 4096)) {
      programme.push(sides[0]);
      peaks.push(sides[0]);
    }
    const { integrated: lufs, range: rangeLu } = programme.finish();
    const { peak, truePeak } = peaks.finish();
    const finite = (db: number) => (Number.isFinite(db) ? db : null);
    return ok({ peakDb: finite(dbOf(peak)), truePeakDb: finite(dbOf(truePeak)), lufs, rangeLu });
  } finally {
    pcm.close();
  }
}
