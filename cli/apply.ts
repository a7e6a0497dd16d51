// isotaxis apply: a list of commands carried out on a session package, all or nothing.
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { rename } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Command } from '$core/commands/index';
import { plan } from '$core/commands/plan';
import { fits } from '$core/formats/gate';
import { commit } from '$core/session/changes';
import type { Session } from '$core/session/entities';
import { openPackage, writePackage } from '$files/package';
import { Failure, must, tell } from './failure';

/** The commands in a file: a list, or an object with one. */
function commandsIn(file: string): Command[] {
  let given: unknown;
  try {
    given = JSON.parse(readFileSync(file, 'utf8'));
  } catch (error) {
    if (!(error instanceof SyntaxError)) throw error;
    throw new Failure(`${file} is not JSON: ${error.message}.`);
  }
  const list = Array.isArray(given) ? (given as unknown[]) : (given as { commands?: unknown } | null)?.commands;
  if (!Array.isArray(list)) throw new Failure(`${file} holds no list of commands: [{ "do": "faders.set", … }, …].`);
  return list as Command[];
}

/** Carries commands out on `session`, one upon another; says of the first that cannot be which it is and why. */
function carryOut(session: Session, commands: readonly Command[]): { labels: string[]; rows: number } {
  const labels: string[] = [];
  const touched = new Set<string>();
  for (const [i, command] of commands.entries()) {
    const refused = (message: string) =>
      new Failure(`Command ${i + 1} of ${commands.length}${command?.do ? `, ${command.do}` : ''}: ${message} Nothing was written.`);
    const planned = plan(session, command);
    if (!planned.ok) throw refused(planned.error.message);
    const { changes, label } = planned.value;
    commit(session, changes);
    const kept = fits(session, changes);
    if (!kept.ok) throw refused(kept.error.message);
    labels.push(label);
    for (const { table, key } of changes) touched.add(`${table} ${key}`);
  }
  return { labels, rows: touched.size };
}

export async function apply(file: string, list: string, out: string): Promise<{ result: object; text: string }> {
  const commands = commandsIn(list);
  if (existsSync(out) && path.resolve(out) !== path.resolve(file)) throw new Failure(`${out} is there already. Name another file.`);
  const work = mkdtempSync(path.join(tmpdir(), 'isotaxis-apply-'));
  try {
    const { session, files, mended } = must(await openPackage(file, work));
    tell(mended);
    const { labels, rows } = carryOut(session, commands);
    await writePackage(session, (sha256) => files.get(sha256)!, `${out}.part`);
    await rename(`${out}.part`, out);
    return {
      result: { out, commands: commands.length, rows, labels },
      text: `${labels.map((label, i) => `${String(i + 1).padStart(3)} ${label}\n`).join('')}${out}: ${commands.length} command${commands.length === 1 ? '' : 's'}, ${rows} row${rows === 1 ? '' : 's'} changed\n`
    };
  } finally {
    rmSync(work, { recursive: true });
    rmSync(`${out}.part`, { force: true });
  }
}
