// Builds what runs: the kernel, the server's threads, an empty database to start from, and (unless --no-page) the page.
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, writeFileSync } from 'node:fs';

const run = (...command) => execFileSync('npx', ['--no-install', ...command], { stdio: 'inherit' });

run('svelte-kit', 'sync');
mkdirSync('dist', { recursive: true });
run(
  'asc',
  'core/kernel/assembly/index.ts',
  // Each processor's part is an entry of its own: what it exports, the module exports.
  ...readdirSync('core/processors')
    .map((name) => `core/processors/${name}/kernel.ts`)
    .filter(existsSync),
  '--outFile',
  'dist/kernel.wasm',
  '-O3',
  '--runtime',
  'stub',
  '--enable',
  'simd',
  '--noAssert',
  '--initialMemory',
  '1',
  '--disableWarning',
  '112'
);
run('vite', 'build', '--config', 'vite.threads.config.ts', '--logLevel', 'warn');
if (!existsSync('dist/empty-database.tar.gz')) {
  const { PGlite } = await import('@electric-sql/pglite');
  const empty = await PGlite.create();
  writeFileSync('dist/empty-database.tar.gz', Buffer.from(await (await empty.dumpDataDir('gzip')).arrayBuffer()));
  await empty.close();
}
if (!process.argv.includes('--no-page')) {
  run('vite', 'build', '--logLevel', 'warn');
  await import('./notices.mjs');
}
