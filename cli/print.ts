// isotaxis print: files of a session package, the mix if nothing is said; what was measured and proved of them.
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { kindOf, readOrder, type FileOrder, type Format, type Range, type Tail } from '$core/prints/order';
import { withRanges } from '$core/prints/ranges';
import { called } from '$core/session/called';
import type { Session } from '$core/session/entities';
import { headerOf } from '$files/intake';
import { openPackage } from '$files/package';
import { printJob, type Printed } from '$files/prints/job';
import { NOTHING, nullSentence, type Null } from '$files/prints/proof';
import type { Recordings } from '$files/prints/recordings';
import { Failure, must, tell } from './failure';

export type PrintChoice = {
  readonly mix: boolean;
  readonly stems: boolean;
  readonly input: boolean;
  readonly raw: boolean;
  /** "all", or names. */
  readonly versions: string | null;
  readonly channels: string | null;
  readonly format: Format;
  /** "FROM-TO" in frames, or a name. */
  readonly range: string | null;
  readonly tail: string | null;
  readonly json: boolean;
};

/** `held` is whether all that was proved holds. */
export async function print(
  file: string,
  folder: string,
  choice: PrintChoice,
  kernel: string
): Promise<{ result: object; text: string; held: boolean }> {
  mkdirSync(folder, { recursive: true });
  const work = mkdtempSync(path.join(tmpdir(), 'isotaxis-print-'));
  try {
    const { session, files, mended } = must(await openPackage(file, work));
    tell(mended);
    const order = must(
      readOrder(
        must(
          withRanges(session, {
            files: filesAsked(session, choice),
            format: choice.format,
            ...(choice.range === null ? {} : { ranges: [rangeOf(choice.range)] }),
            ...(choice.tail === null ? {} : { tail: tailOf(choice.tail) })
          })
        )
      )
    );
    const recordings: Record<string, Recordings[string]> = {};
    for (const { id, sha256 } of session.media.values()) {
      const recording = files.get(sha256)!;
      recordings[id] = { file: recording, info: must((await headerOf(recording))!) };
    }
    let shown = -1;
    const progress = (share: number) => {
      const percent = Math.floor(share * 100);
      if (choice.json || !process.stderr.isTTY || percent === shown) return;
      process.stderr.write(`\r${(shown = percent)} %`);
    };
    const threads = path.join(path.dirname(kernel), 'threads');
    const [thread, ahead] = [path.join(threads, 'render.js'), path.join(threads, 'ahead.js')];
    const date = new Date().toISOString();
    const printed = must(
      await printJob({ session, order, kernel, recordings, folder, date, thread, ahead, keepResiduals: false }, progress)
    );
    if (shown >= 0) process.stderr.write('\r');
    for (const note of printed.notes) process.stderr.write(`isotaxis: ${note}\n`);
    const held = printed.nulls.every(({ holds }) => holds);
    return { result: resultOf(printed, folder, choice.format), text: textOf(printed, folder), held };
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
}

/** What names separated by commas mean; a name that has a comma itself is found whole. */
function chosen<T extends { readonly id: string; readonly name: string }>(rows: ReadonlyMap<string, T>, text: string, what: string): T[] {
  const names = called(rows.values(), text).length ? [text] : text.split(',').filter((part) => part.trim() !== '');
  return names.flatMap((name) => {
    const found = called(rows.values(), name);
    if (found.length === 0) throw new Failure(`There is no ${what} called “${name.trim()}”.`);
    return found;
  });
}

function filesAsked(session: Session, { mix, stems, input, raw, versions, channels }: PrintChoice): FileOrder[] {
  const files: FileOrder[] = [];
  if (stems) files.push({ kind: 'stem' });
  if (input) files.push({ kind: 'input' });
  if (mix) files.push({ kind: 'mix' });
  if (versions === 'all') files.push({ kind: 'version' });
  else if (versions !== null) for (const { id } of chosen(session.version, versions, 'version')) files.push({ kind: 'version', id });
  if (raw) files.push({ kind: 'raw' });
  for (const channel of channels === null ? [] : chosen(session.channel, channels, 'channel')) {
    const kind = kindOf(channel);
    if (!kind) throw new Failure(`${channel.name} makes no sound that could be printed.`);
    files.push({ kind, id: channel.id });
  }
  return files;
}

/** "0-48000" in frames, or the name of a range of the session. */
function rangeOf(text: string): Range | { readonly name: string } {
  const found = /^(\d+)-(\d+)$/.exec(text);
  return found ? { from: Number(found[1]), to: Number(found[2]) } : { name: text };
}

const tailOf = (text: string): Tail => (text === 'decay' || text === 'none' ? text : Number(text));

const two = (value: number | null): number | null => (value === null || !Number.isFinite(value) ? null : Number(value.toFixed(2)));
/** The worst of one kind, or null where it does not apply. */
const worst = (nulls: readonly Null[], of: Null['of']): number | null => {
  const own = nulls.filter((each) => each.of === of);
  return own.length ? two(Math.max(...own.map(({ db }) => db))) : null;
};

function resultOf({ files, rate, nulls, notes }: Printed, folder: string, format: Format): object {
  return {
    folder,
    rate,
    format,
    files: files.map(({ kind, title, name, channels, frames, peakDb, truePeakDb, lufs, rangeLu, sha256 }) => ({
      name,
      kind,
      of: title,
      channels,
      frames,
      peakDb: two(peakDb),
      truePeakDb: two(truePeakDb),
      lufs: two(lufs),
      rangeLu: two(rangeLu),
      sha256
    })),
    nulls: { stems: worst(nulls, 'stems'), chain: worst(nulls, 'chain') },
    proof: nulls.map(({ of, name, db, bar, holds, why }) => ({ of, name, db: two(db), bar: two(bar), holds, why })),
    notes
  };
}

function textOf({ files, rate, nulls }: Printed, folder: string): string {
  const shown = (value: number | null, unit: string) =>
    value === null || !Number.isFinite(value) ? `−∞ ${unit}` : `${value.toFixed(1)} ${unit}`;
  const lines = files.map(
    ({ name, frames, peakDb, truePeakDb, lufs }) =>
      `${path.join(folder, name)}: ${(frames / rate).toFixed(3)} s, peak ${shown(peakDb, 'dBFS')}, true peak ${shown(truePeakDb, 'dBTP')}, ${shown(lufs, 'LUFS')}`
  );
  const proofs = nulls.map(
    (each) => `${each.holds ? 'holds' : 'DOES NOT HOLD'}: ${nullSentence(each)}${each.db <= NOTHING ? ', to the bit' : ''}`
  );
  return `${[...lines, ...proofs].join('\n')}\n`;
}
