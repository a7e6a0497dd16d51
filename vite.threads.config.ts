// Builds the server's threads and the command line: each an entry of its own in dist/threads, with the core bundled in and packages left out.
import path from 'node:path';
import { defineConfig } from 'vite';

const threads = [
  'ahead',
  'analyse',
  'convert',
  'database',
  'hash',
  'measure',
  'passphrase',
  'print',
  'render',
  'restore',
  'synthesise',
  'unpack'
];

export default defineConfig({
  resolve: {
    alias: { $core: path.resolve('core'), $files: path.resolve('files'), $demo: path.resolve('demo'), $lib: path.resolve('src/lib') }
  },
  build: {
    ssr: true,
    target: 'node20',
    outDir: 'dist/threads',
    emptyOutDir: true,
    copyPublicDir: false,
    rollupOptions: {
      input: { ...Object.fromEntries(threads.map((name) => [name, `src/lib/server/threads/${name}.ts`])), cli: 'cli/main.ts' },
      output: { entryFileNames: '[name].js' }
    }
  }
});
