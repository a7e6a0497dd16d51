// isotaxis print: the mix of a session package as a WAV file.
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { endOf } from '$core/session/select';
import type { Written } from '$core/formats/pcm';
import { settingsOf } from '$core/session/entities';
import { dbOf } from '$core/units';
import { hashOf, headerOf } from '$files/intake';
import { openPackage } from '$files/package';
import { printMix, type Recordings } from '$files/print';
import { Failure, must } from './failure';

export async function print(
  file: string,
  folder: string,
  encoding: Written,
  kernel: string,
  quiet: boolean
): Promise<{ result: object; text: string }> {
  mkdirSync(folder, { recursive: true });
  const work = mkdtempSync(path.join(tmpdir(), 'isotaxis-print-'));
  try {
    const { session, files } = must(await openPackage(file, work));
    if (endOf(session) === 0) throw new Failure('There is nothing to print: the session holds no audio.');
    const recordings: Record<string, Recordings[string]> = {};
    for (const { id, sha256 } of session.media.values()) {
      const recording = files.get(sha256)!;
      recordings[id] = { file: recording, info: must((await headerOf(recording))!) };
    }
    const { name, rate } = settingsOf(session);
    const out = path.join(folder, `${name.replace(/[\\/:*?"<>|]/g, '-')} - mix.wav`);
    let shown = -1;
    const progress = (share: number) => {
      const percent = Math.floor(share * 100);
      if (quiet || !process.stderr.isTTY || percent === shown) return;
      process.stderr.write(`\r${(shown = percent)} %`);
    };
    const { frames, peak } = must(printMix({ session, kernel, recordings, encoding, file: out, date: new Date().toISOString() }, progress));
    if (shown >= 0) process.stderr.write('\r');
    const peakDb = peak > 0 ? Number(dbOf(peak).toFixed(2)) : null;
    const result = { file: out, frames, rate, encoding, peakDb, sha256: await hashOf(out) };
    return { result, text: `${out}: ${(frames / rate).toFixed(3)} s, peak ${peakDb === null ? '−∞' : peakDb.toFixed(1)} dBFS\n` };
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
}
