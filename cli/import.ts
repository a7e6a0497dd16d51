// isotaxis import: the audio files of a folder become a session package.
import { mkdtempSync, rmSync } from 'node:fs';
import { readdir, rename } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { commit } from '$core/session/changes';
import { newSession } from '$core/session/create';
import { planBatch } from '$core/commands/plan';
import { tracksFor, type Taken } from '$core/commands/intake';
import type { Command } from '$core/commands/index';
import { analyse } from '$files/analyse';
import { convert } from '$files/convert';
import { hashOf, intakeOf, prepareFile } from '$files/intake';
import { writePackage } from '$files/package';
import { refuse } from '$core/result';
import { Failure, must } from './failure';

type Options = { readonly rate: number | null; readonly convert: boolean; readonly keep: boolean; readonly name: string | null };
type Imported = {
  readonly package: string;
  readonly rate: number;
  readonly tracks: number;
  readonly refused: readonly { readonly file: string; readonly code: string; readonly message: string }[];
};

const COLOUR = 7;

export async function importFolder(folder: string, out: string, options: Options): Promise<{ result: Imported; text: string }> {
  const names = (await readdir(folder, { withFileTypes: true }))
    .filter((entry) => entry.isFile() && !entry.name.startsWith('.'))
    .map((entry) => entry.name)
    .sort((a, b) => a.localeCompare(b, 'en', { numeric: true }));
  if (names.length === 0) throw new Failure(`There are no files in ${folder}.`);
  const work = mkdtempSync(path.join(tmpdir(), 'isotaxis-import-'));
  try {
    const taken: Taken[] = [];
    const refused: Imported['refused'][number][] = [];
    const files = new Map<string, string>();
    let { rate } = options;
    for (const name of names) {
      const file = path.join(folder, name);
      const sha256 = await hashOf(file);
      // Without --rate the first file that can be read says the session's.
      for (let attempt = 0; attempt < 2; attempt++) {
        const prepared = await prepareFile({
          file,
          sha256,
          decoded: path.join(work, `${taken.length}-${refused.length}.wav`),
          sessionRate: rate ?? 0,
          convert: options.convert && rate !== null,
          keep: options.keep,
          run: (order) => convert(order).catch((error: Error) => refuse('damaged', error.message))
        });
        if (prepared.ok) {
          const analysis = analyse({ file: prepared.value.file, info: prepared.value.info, peaksFile: path.join(work, 'peaks') });
          if (analysis.firstBad >= 0)
            refused.push({ file: name, code: 'not-a-number', message: `The sample at frame ${analysis.firstBad} is not a number.` });
          else {
            files.set(prepared.value.sha256, prepared.value.file);
            taken.push({ name, ...intakeOf(name, prepared.value, analysis) });
          }
          break;
        }
        const found = prepared.error.data?.rate;
        if (rate === null && prepared.error.code === 'rate' && typeof found === 'number') rate = found;
        else {
          refused.push({ file: name, code: prepared.error.code, message: prepared.error.message });
          break;
        }
      }
    }
    for (const { file, message } of refused) process.stderr.write(`isotaxis: ${file}: ${message}\n`);
    if (taken.length === 0 || rate === null) throw new Failure('No file could be taken, so no package was written.');
    const session = newSession({ name: options.name ?? (path.basename(path.resolve(folder)) || 'Session'), rate });
    let last = 0;
    const command = { do: 'tracks.add', tracks: tracksFor(taken, () => `t${++last}`, COLOUR) } as Command;
    commit(session, must(planBatch(session, [command])).changes);
    await writePackage(session, (sha256) => files.get(sha256)!, `${out}.part`);
    await rename(`${out}.part`, out);
    const result = { package: out, rate, tracks: session.channel.size - 1, refused };
    return { result, text: `${out}: ${result.tracks} tracks at ${rate} Hz${refused.length ? `, ${refused.length} files refused` : ''}\n` };
  } finally {
    rmSync(work, { recursive: true, force: true });
    rmSync(`${out}.part`, { force: true });
  }
}
