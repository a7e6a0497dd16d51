// Checks of commands' arguments that are set as they are given: from the description of the column that they go into.
import * as yup from 'yup';
import type { Column, JsonSchema } from '../session/column.ts';
import type { TableName, Tables } from '../session/entities.ts';
import { columnsOf } from '../session/tables.ts';
import { level, trimmed, text, whole } from './define.ts';

type Range = { readonly minimum?: number; readonly maximum?: number; readonly exclusiveMaximum?: number; readonly multipleOf?: number };

function numberOf(schema: JsonSchema): yup.NumberSchema {
  if (schema.enum) return yup.number().oneOf(schema.enum as number[]);
  const { minimum, maximum, exclusiveMaximum, multipleOf } = schema as Range;
  let made = schema.type === 'integer' ? whole() : yup.number();
  if (minimum !== undefined) made = made.min(minimum);
  if (maximum !== undefined) made = made.max(maximum);
  if (exclusiveMaximum !== undefined) made = made.lessThan(exclusiveMaximum);
  if (multipleOf !== undefined)
    made = made.test('multiple', `\${path} comes in steps of ${multipleOf}`, (value) => value == null || value % multipleOf === 0);
  return made;
}

function textBy(schema: JsonSchema): yup.StringSchema {
  if (schema.enum) return yup.string().oneOf(schema.enum as string[]);
  const { maxLength, minLength, pattern } = schema as { maxLength?: number; minLength?: number; pattern?: string };
  // Text with a bound is plain text; a name is nothing but space only by mistake.
  if (maxLength !== undefined) return minLength ? trimmed(maxLength).min(minLength) : text(maxLength);
  return pattern ? yup.string().matches(new RegExp(pattern)) : yup.string();
}

function checkOf({ type, schema }: Column): yup.Schema {
  if (type === 'bool') return yup.boolean();
  if (type === 'db') return level();
  if (type === 'number') return numberOf(schema);
  if (type === 'text') return textBy(schema);
  throw new Error('A json column needs a schema of its own.');
}

type Plain<T> = T extends string | number | boolean ? T : never;

/**
 * The check of an argument that goes into a column: `field('settings', 'bpm')` takes 20 … 400, or nothing. Levels are not bounded:
 * commands clamp them. Null where the column may be null.
 */
export function field<T extends TableName, N extends keyof Tables[T] & string>(
  table: T,
  name: N
): yup.Schema<Plain<Tables[T][N]> | (null extends Tables[T][N] ? null : never) | undefined> & {
  required(): yup.Schema<Plain<Tables[T][N]>>;
  default(value: Plain<Tables[T][N]>): yup.Schema<Plain<Tables[T][N]>>;
} {
  const column = columnsOf(table)[name];
  const made = checkOf(column);
  return (column.nullable ? made.nullable() : made) as never;
}
