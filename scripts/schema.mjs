// Writes docs/session.schema.json from the one description of the tables: npm run schema, after a change of them.
import { writeFileSync } from 'node:fs';
import { build } from 'vite';

await build({
  configFile: false,
  logLevel: 'error',
  build: {
    ssr: 'core/formats/schema.ts',
    outDir: 'dist/schema',
    copyPublicDir: false,
    rollupOptions: { output: { entryFileNames: 'schema.js' } }
  }
});
const { sessionSchema } = await import(new URL('../dist/schema/schema.js', import.meta.url).href);
writeFileSync('docs/session.schema.json', `${JSON.stringify(sessionSchema, null, 2)}\n`);
