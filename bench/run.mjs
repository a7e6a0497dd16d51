// npm run bench -- engine [--tracks N]: bundles a bench and runs it.
import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import path from 'node:path';
import { build } from 'vite';

const [name = 'engine', ...rest] = process.argv.slice(2);
// A bench that drives a browser is plain JavaScript already.
if (existsSync(`bench/${name}.mjs`)) {
  execFileSync('node', [`bench/${name}.mjs`, ...rest], { stdio: 'inherit' });
  process.exit(0);
}
await build({
  configFile: false,
  logLevel: 'error',
  resolve: { alias: { $core: path.resolve('core'), $files: path.resolve('files') } },
  build: {
    ssr: `bench/${name}.ts`,
    outDir: 'dist/bench',
    emptyOutDir: false,
    copyPublicDir: false,
    rollupOptions: { output: { entryFileNames: '[name].js' } }
  }
});
execFileSync('node', [`dist/bench/${name}.js`, ...rest], { stdio: 'inherit' });
