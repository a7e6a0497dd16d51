// Writes docs/session.schema.json from the one description of the tables, and docs/delivery.schema.json: npm run schema, after a change.
import { writeFileSync } from 'node:fs';
import { bundled } from './bundled.mjs';

const { sessionSchema } = await bundled('core/formats/schema.ts', 'schema');
writeFileSync('docs/session.schema.json', `${JSON.stringify(sessionSchema, null, 2)}\n`);

const { deliverySchema } = await bundled('core/prints/deliverySchema.ts', 'deliverySchema');
writeFileSync('docs/delivery.schema.json', `${JSON.stringify(deliverySchema, null, 2)}\n`);
