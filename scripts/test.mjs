// The whole suite, one part after another; the last line counts what passed and failed.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { withPostgres } from './postgres.mjs';

mkdirSync('test-results', { recursive: true });
// What runs left that were killed, and what earlier trees were tested on; nothing that a person may have called so.
const DAY = 24 * 3600 * 1000;
const OURS = /^isotaxis-(made-(database|demo)-[0-9a-f]{16}|(making|browser|postgres)-\w{6})$/;
for (const name of readdirSync(tmpdir()).filter((each) => OURS.test(each))) {
  const folder = path.join(tmpdir(), name);
  const { mtimeMs = Infinity } = statSync(folder, { throwIfNoEntry: false }) ?? {};
  if (mtimeMs < Date.now() - DAY) rmSync(folder, { recursive: true, force: true });
}
let passed = 0;
let failed = 0;

const run = (...command) => spawnSync('npx', ['--no-install', ...command], { stdio: 'inherit' }).status === 0;
const count = (ok, good = ok ? 1 : 0, bad = ok ? 0 : 1) => {
  passed += good;
  failed += bad;
};
/** Checks that only read what is there run two at a time, longest first; what each said comes in one piece. */
const checks = async (list) => {
  const waiting = [...list];
  const next = async () => {
    for (let check = waiting.shift(); check; check = waiting.shift()) {
      const [title, ...command] = check;
      const child = spawn('npx', ['--no-install', ...command], { stdio: ['ignore', 'pipe', 'pipe'] });
      let said = '';
      for (const stream of [child.stdout, child.stderr]) stream.on('data', (text) => (said += text));
      const ok = await new Promise((resolve) => child.on('close', (code) => resolve(code === 0)));
      console.log(`\n── ${title}\n${said}`);
      count(ok);
    }
  };
  await Promise.all([next(), next()]);
};
/** Runs a test runner and counts its single tests from the report it writes. */
const suite = (title, file, read, ...command) => {
  console.log(`\n── ${title}`);
  rmSync(file, { force: true });
  const ok = run(...command);
  if (!existsSync(file)) return count(false);
  const { good, bad, flaky = [] } = read(JSON.parse(readFileSync(file, 'utf8')));
  // Not as good as one that passes: whoever reads this should see which they are.
  for (const name of flaky) console.log(`passed only at its second try: ${name}`);
  count(ok, good, ok || bad ? bad : 1);
};

/** Titles of the browser tests that failed at first, at whatever depth. */
const flakyIn = (suites) =>
  suites.flatMap(({ specs = [], suites: inner = [], file }) => [
    ...specs.filter(({ tests }) => tests.some(({ status }) => status === 'flaky')).map(({ title }) => `${file}: ${title}`),
    ...flakyIn(inner)
  ]);

const CACHES = 'node_modules/.cache/';
await checks([
  ['types', 'svelte-check', '--tsconfig', './tsconfig.json', '--fail-on-warnings'],
  ['format', 'prettier', '--check', '--cache', '--cache-location', `${CACHES}prettier`, '--log-level', 'warn', '.'],
  ['lint', 'eslint', '--cache', '--cache-location', `${CACHES}eslint/`, '.'],
  // What these are to hold depends on which other files there are.
  ['lint of the lists', 'eslint', 'core/commands/index.ts', 'core/session/tables.ts', 'core/processors/index.ts', 'src/lib/views/index.ts'],
  ['types of the core', 'tsc', '-p', 'core']
]);
suite(
  'unit',
  'test-results/unit.json',
  (report) => ({ good: report.numPassedTests, bad: report.numFailedTests + report.numFailedTestSuites }),
  ...['vitest', 'run', '--reporter=default', '--reporter=json', '--outputFile=test-results/unit.json']
);
/** What may differ there: SQL, what is stored, and whole tables. The rest of the server asks through these. */
const ON_POSTGRES = ['db/', 'server.test', 'odd.test', 'linked.test', 'shelf.test', 'backup/'].map((name) => `src/lib/server/${name}`);
await withPostgres((url) => {
  process.env.DATABASE_URL = url;
  suite(
    'the server on PostgreSQL',
    'test-results/postgres.json',
    (report) => ({ good: report.numPassedTests, bad: report.numFailedTests + report.numFailedTestSuites }),
    ...['vitest', 'run', ...ON_POSTGRES, '--reporter=default', '--reporter=json', '--outputFile=test-results/postgres.json']
  );
  delete process.env.DATABASE_URL;
});
suite(
  'browser',
  'test-results/browser.json',
  ({ stats, suites }) => ({ good: stats.expected + stats.flaky, bad: stats.unexpected, flaky: flakyIn(suites) }),
  'playwright',
  'test'
);

console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed ? 1 : 0);
