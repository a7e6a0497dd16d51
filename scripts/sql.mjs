// npm run sql -- TABLE: the SQL that creates a table as it is described, to begin a migration with.
import { bundled } from './bundled.mjs';

const [table] = process.argv.slice(2);
const { createTable, describedTables } = await bundled('src/lib/server/db/ddl.ts', 'sql');
if (!describedTables.includes(table)) {
  console.error(`Say which table: ${describedTables.join(', ')}.`);
  process.exit(1);
}
console.log(`${createTable(table).join(';\n')};`);
