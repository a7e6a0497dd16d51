// The published JSON Schema of session.json: made from the one description of the tables.
import { INSERT_TYPES } from '../processors/index.ts';
import { schemaOf, schemas, type JsonSchema } from '../session/column.ts';
import type { TableName } from '../session/entities.ts';
import { columnsOf, DOCUMENT_VERSION, tableNames } from '../session/tables.ts';

export const DOCUMENT_FORMAT = 'isotaxis-session';

type Schema = JsonSchema;

/** The schema of one field, with what its numbers count. */
export function fieldSchema(table: TableName, name: string): Schema {
  const column = columnsOf(table)[name];
  // Which processors there are is registered above the session's tables.
  const schema = schemaOf(table === 'insert' && name === 'type' ? { ...column, schema: schemas.oneOf(...INSERT_TYPES) } : column);
  return column.unit ? { ...schema, description: column.unit } : schema;
}

const rows = (table: TableName): Schema => {
  const names = Object.keys(columnsOf(table));
  return {
    type: 'array',
    maxItems: 200_000,
    items: {
      type: 'object',
      properties: Object.fromEntries(names.map((name) => [name, fieldSchema(table, name)])),
      required: names,
      additionalProperties: false
    }
  };
};

export const sessionSchema: Schema = {
  $schema: 'http://json-schema.org/draft-07/schema#',
  title: 'Isotaxis session',
  description: 'session.json of a session package. Levels are dB, or "-inf"; positions and lengths are frames at the session’s rate.',
  type: 'object',
  properties: {
    format: { const: DOCUMENT_FORMAT },
    version: { const: DOCUMENT_VERSION },
    session: {
      type: 'object',
      properties: Object.fromEntries(tableNames.map((table) => [table, rows(table)])),
      required: tableNames,
      additionalProperties: false
    }
  },
  required: ['format', 'version', 'session'],
  additionalProperties: false
};
