// A module of the product as plain JavaScript, for scripts: bundled into `dist/`, then imported.
import path from 'node:path';
import { build } from 'vite';

export async function bundled(entry, name) {
  await build({
    configFile: false,
    logLevel: 'error',
    resolve: { alias: { $core: path.resolve('core') } },
    build: { ssr: entry, outDir: `dist/${name}`, copyPublicDir: false, rollupOptions: { output: { entryFileNames: 'module.js' } } }
  });
  return import(new URL(`../dist/${name}/module.js`, import.meta.url).href);
}
