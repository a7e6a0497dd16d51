// isotaxis sort: sorts the tracks of a session package by rule and writes the sorted package.
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { planBatch } from '$core/commands/plan';
import { defaultRules } from '$core/organise/defaultRules';
import { readRuleBook } from '$core/organise/ruleBook';
import { sortPlan } from '$core/organise/sort';
import { readSortOptions } from '$core/organise/sortOptions';
import { commit } from '$core/session/changes';
import { treeOf } from '$core/routing/graph';
import { openPackage, writePackage } from '$files/package';
import { randomUUID } from 'node:crypto';
import { Failure, must, tell } from './failure';

export async function sort(
  file: string,
  out: string,
  rulesFile: string | null,
  tiers: number | null
): Promise<{ result: object; text: string }> {
  const book = rulesFile === null ? defaultRules : must(readRuleBook(parsed(rulesFile)));
  const { options } = must(readSortOptions({ options: tiers === null ? {} : { tiers } }));
  if (existsSync(out) && path.resolve(out) !== path.resolve(file)) throw new Failure(`${out} is there already. Name another file.`);
  const work = mkdtempSync(path.join(tmpdir(), 'isotaxis-sort-'));
  try {
    const { session, files, mended } = must(await openPackage(file, work));
    tell(mended);
    const plan = sortPlan(session, { book, options, newId: randomUUID });
    const planned = must(planBatch(session, plan.commands));
    commit(session, planned.changes);
    await writePackage(session, (sha256) => files.get(sha256)!, out);
    const unmatched = plan.tracks.filter(({ rule }) => !rule).map((track) => track.file);
    const fights = plan.tracks.filter((track) => track.fights.length).map((track) => track.file);
    const lines = treeOf(session).mix.map(({ channel, depth }) => `  ${'  '.repeat(depth)}${channel.name}`);
    const head = `${plan.tracks.length - unmatched.length} of ${plan.tracks.length} tracks sorted by rule.\n`;
    const left = unmatched.length ? `No rule took: ${unmatched.join(', ')}\n` : '';
    return {
      result: { out, tracks: plan.tracks.length, sorted: plan.tracks.length - unmatched.length, unmatched, fights },
      text: `${head}${left}${lines.join('\n')}\n`
    };
  } finally {
    rmSync(work, { recursive: true });
  }
}

function parsed(file: string): unknown {
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch (error) {
    if (error instanceof SyntaxError) throw new Failure(`${file} is not JSON: ${error.message}.`);
    throw error;
  }
}
