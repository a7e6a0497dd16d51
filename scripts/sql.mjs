// npm run sql -- TABLE: the SQL that creates a table as it is described, to begin a migration with.
import { build } from 'vite';
import path from 'node:path';

const [table] = process.argv.slice(2);
await build({
  configFile: false,
  logLevel: 'error',
  resolve: { alias: { $core: path.resolve('core') } },
  build: {
    ssr: 'src/lib/server/db/ddl.ts',
    outDir: 'dist/sql',
    copyPublicDir: false,
    rollupOptions: { output: { entryFileNames: 'ddl.js' } }
  }
});
const { createTable, describedTables } = await import(new URL('../dist/sql/ddl.js', import.meta.url).href);
if (!describedTables.includes(table)) {
  console.error(`Say which table: ${describedTables.join(', ')}.`);
  process.exit(1);
}
console.log(`${createTable(table).join(';\n')};`);
