import path from 'node:path';
import { compile, compileModule } from 'svelte/compiler';
import ts from 'typescript';
import { defineConfig, type Plugin } from 'vitest/config';

/** Compiles the page's state, whose files hold runes, as for a browser; in Node they would be compiled for rendering. */
const runes: Plugin = {
  name: 'runes-for-the-page',
  enforce: 'pre',
  transform(code, id) {
    if (!/\.svelte(\.test)?\.ts$/.test(id)) return null;
    const { outputText } = ts.transpileModule(code, { compilerOptions: { target: ts.ScriptTarget.ESNext, module: ts.ModuleKind.ESNext } });
    return compileModule(outputText, { filename: id, generate: 'client' }).js;
  }
};

/** Compiles components that the server renders: the delivery sheet. */
const rendered: Plugin = {
  name: 'components-for-the-server',
  enforce: 'pre',
  transform: (code, id) => (id.endsWith('.svelte') ? compile(code, { filename: id, generate: 'server' }).js : null)
};

/** Tests of the core that put modules of their own in others' place. */
const MOCKING = ['core/session/dependents.test.ts'];

export default defineConfig({
  plugins: [runes, rendered],
  resolve: {
    alias: [
      { find: '$core', replacement: path.resolve('core') },
      { find: '$files', replacement: path.resolve('files') },
      { find: '$demo', replacement: path.resolve('demo') },
      { find: '$app/environment', replacement: path.resolve('tests/oracle/appEnvironment.ts') },
      { find: '$lib', replacement: path.resolve('src/lib') },
      // The package's own entry for Node is the one for rendering.
      { find: /^svelte$/, replacement: path.resolve('node_modules/svelte/src/index-client.js') }
    ]
  },
  test: {
    projects: [
      {
        extends: true,
        // Pure functions over plain data: one module of each for all files.
        test: { name: 'core', include: ['core/**/*.test.ts'], exclude: MOCKING, isolate: false }
      },
      { extends: true, test: { name: 'rest', include: ['{files,src,demo,cli}/**/*.test.ts', ...MOCKING] } }
    ],
    server: { deps: { inline: ['svelte'] } },
    // Only what hangs is ended by the clock: a machine may be many times slower than another.
    testTimeout: 600_000,
    hookTimeout: 600_000,
    maxWorkers: 2
  }
});
