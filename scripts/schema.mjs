// Writes docs/session.schema.json from the one description of the tables: npm run schema, after a change of them.
import { writeFileSync } from 'node:fs';
import { bundled } from './bundled.mjs';

const { sessionSchema } = await bundled('core/formats/schema.ts', 'schema');
writeFileSync('docs/session.schema.json', `${JSON.stringify(sessionSchema, null, 2)}\n`);
