// Words of the Prints view.
import type { Format, PrintKind } from '$core/prints/order';
import type { Null } from '$files/prints/proof';
import type { Print, PrintFile } from '$lib/server/printRows';
import { timeText } from '$core/time';

export { framesOf } from '$core/time';

export const FORMAT_WORDS: Readonly<Record<Format, string>> = {
  wav16: 'WAV, 16 bit',
  wav24: 'WAV, 24 bit',
  wav32: 'WAV, 32 bit',
  wav32f: 'WAV, 32-bit float',
  flac16: 'FLAC, 16 bit',
  flac24: 'FLAC, 24 bit'
};
export const KIND_WORDS: Readonly<Record<PrintKind, string>> = {
  mix: 'mix',
  stem: 'stem',
  input: 'mix-bus input',
  version: 'version',
  raw: 'track',
  dry: 'dry track',
  bus: 'bus',
  return: 'return',
  cue: 'cue',
  chained: 'chained stem'
};
/** Level to a tenth, "−∞" of silence. */
export const level = (db: number | null): string => (db === null ? '−∞' : db.toFixed(1).replace('-', '−'));
const NOTHING = -300;
export const leftText = ({ db }: Null): string => (db <= NOTHING ? 'nothing' : `${level(db)} dBFS`);
/** "stems − mix-bus input" */
export const nullWords = ({ of, name }: Null): string => (of === 'stems' ? 'stems − mix-bus input' : `through the chain − ${name}`);
export const megabytes = (bytes: number): string =>
  bytes >= 1e9
    ? `${(bytes / 1e9).toFixed(1)} GB`
    : bytes >= 1e6
      ? `${Math.round(bytes / 1e6)} MB`
      : `${Math.max(1, Math.round(bytes / 1e3))} kB`;
export const lengthText = (frames: number, rate: number): string => timeText(frames, rate);

/** A file and the job it is of. */
export type Seen = { readonly print: Print; readonly file: PrintFile };
/** The same file of other finished jobs: the same of the same channel or version, at the same rate. */
export const samesOf = (prints: readonly Print[], { print, file }: Seen): Seen[] =>
  prints.flatMap((each) =>
    each.id === print.id || each.status !== 'done' || each.rate !== print.rate || file.of === ''
      ? []
      : each.files
          .filter(({ kind, of }) => kind === file.kind && of === file.of)
          .slice(0, 1)
          .map((other) => ({ print: each, file: other }))
  );
