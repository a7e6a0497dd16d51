// Before start, dev and test: installs what is missing and builds what has changed. Uses nothing but Node until then.
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { hashOf } from './hash.mjs';

const withBrowser = process.argv.includes('--browser');
const withPage = !process.argv.includes('--no-page');
const run = (program, ...args) => execFileSync(program, args, { stdio: 'inherit' });
const before = (name) => (existsSync(name) ? readFileSync(name, 'utf8') : '');

const [major, minor] = process.versions.node.split('.').map(Number);
if (major < 20 || (major === 20 && minor < 19)) {
  console.error(`Isotaxis needs Node 20.19 or newer; this is ${process.version}.`);
  process.exit(1);
}

const packages = hashOf(['package.json', 'package-lock.json']);
if (before('node_modules/.isotaxis-packages') !== packages) {
  console.log('Installing packages …');
  run('npm', 'ci', '--no-audit', '--no-fund', '--include=dev', '--loglevel', 'error');
  writeFileSync('node_modules/.isotaxis-packages', packages);
}

const sources = hashOf([
  ...['core', 'files', 'cli', 'demo', 'src', 'static', 'scripts/build.mjs', 'scripts/notices.mjs', 'package-lock.json'],
  ...['svelte.config.js', 'vite.config.ts', 'vite.threads.config.ts', 'tsconfig.json']
]);
const mark = `${sources}${withPage ? ' page' : ''}`;
if (!existsSync('dist/threads') || ![mark, `${sources} page`].includes(before('dist/.built'))) {
  console.log('Building …');
  mkdirSync('dist', { recursive: true });
  run('node', 'scripts/build.mjs', 'scripts/notices.mjs', ...(withPage ? [] : ['--no-page']));
  writeFileSync('dist/.built', mark);
}

if (withBrowser) {
  const missing = [
    ['chromium', '/usr/bin/chromium'],
    ['ffmpeg', '/usr/bin/ffmpeg'],
    ['flac', '/usr/bin/flac'],
    ['graphviz', '/usr/bin/graphml2gv'],
    ['sox', '/usr/bin/sox'],
    ['unzip', '/usr/bin/unzip'],
    ['postgresql', '/usr/lib/postgresql']
  ].filter(([, file]) => !existsSync(file));
  if (missing.length) {
    console.log('Installing Debian’s Chromium, ffmpeg, FLAC, graphviz, sox, unzip and PostgreSQL for the tests …');
    run('apt-get', 'update', '-qq');
    run('apt-get', 'install', '-y', '-qq', '--no-install-recommends', ...missing.map(([name]) => name));
  }
}
