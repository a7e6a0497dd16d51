// Files of lines, each a row as JSON: written by us, or a stranger's. Never more is read at once than one line may have.
import { createReadStream } from 'node:fs';
import { depthOf, MOST_DEPTH } from '$core/json';
import { Refused } from '../failures';
import type { Row } from '../db/database';

/** Letters of a line: a removal of everything in the largest session is some 30 million. */
export const MOST_LINE = 128 * 2 ** 20;
/** Rows at a time, and their letters. */
const AT_ONCE = 500;
const MOST_CHARACTERS = 4_000_000;

/** Carries out of any depth that an entry is not what a backup holds. */
export const spoilt = (entry: string, why: string): Refused =>
  new Refused({
    code: 'damaged',
    message: `The backup is damaged: ${entry} ${why.replace(/\.$/, '')}. Nothing of it was taken. Copy it again, or make another.`,
    data: { entry }
  });

/** The lines of a file; throws `Refused` naming `entry` where one is longer than `MOST_LINE`. */
export async function* linesOf(file: string, entry: string, most = MOST_LINE): AsyncGenerator<string> {
  let rest = '';
  for await (const chunk of createReadStream(file, { encoding: 'utf8', highWaterMark: 1 << 20 })) {
    const parts = (chunk as string).split('\n');
    parts[0] = rest + parts[0];
    rest = parts.pop()!;
    if (rest.length > most || parts.some((line) => line.length > most))
      throw spoilt(entry, `has a line of more than ${Math.round(most / 1e6)} MB`);
    yield* parts;
  }
  if (rest) yield rest;
}

/** Text that no database of ours takes: NUL, and halves of letters. */
const STRANGE = /\0|\p{Cs}/u;
const strangeIn = (value: unknown): boolean =>
  typeof value === 'string'
    ? STRANGE.test(value)
    : typeof value === 'object' && value !== null
      ? Object.entries(value).some(([name, inner]) => STRANGE.test(name) || strangeIn(inner))
      : false;

/** The rows in a file of lines, one by one; throws `Refused` naming `entry` at the first line that is none. */
export async function* rowsOf(file: string, entry: string): AsyncGenerator<Row> {
  let place = 0;
  for await (const line of linesOf(file, entry)) {
    place++;
    if (!line.trim()) continue;
    let row: unknown;
    try {
      if (depthOf(line) > MOST_DEPTH) throw spoilt(entry, `is nested too deeply in line ${place}`);
      row = JSON.parse(line);
    } catch (error) {
      throw error instanceof SyntaxError ? spoilt(entry, `has no row in line ${place}: ${error.message}`) : error;
    }
    if (typeof row !== 'object' || row === null || Array.isArray(row)) throw spoilt(entry, `has no row in line ${place}`);
    if (strangeIn(row)) throw spoilt(entry, `holds text in line ${place} that cannot be kept`);
    yield row as Row;
  }
}

/** The same in portions that a statement may carry. */
export async function* portionsOf(rows: AsyncIterable<Row>): AsyncGenerator<Row[]> {
  let portion: Row[] = [];
  let length = 0;
  for await (const row of rows) {
    portion.push(row);
    length += JSON.stringify(row).length;
    if (portion.length < AT_ONCE && length < MOST_CHARACTERS) continue;
    yield portion;
    portion = [];
    length = 0;
  }
  if (portion.length) yield portion;
}
