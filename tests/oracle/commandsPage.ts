// docs/commands.md: every command with what it does, its arguments and an example, from schemas and docstrings.
import type { SchemaDescription, SchemaFieldDescription } from 'yup';
import { commands } from '../../core/commands/index.ts';
import type { Definition } from '../../core/commands/define.ts';
import { docstrings } from './examples.ts';

/** How a value is written: `"pre" | "post"`, `[{ id, level? }]`, or nothing where its type says all there is to say. */
function shapeOf(field: SchemaFieldDescription): string {
  const { type, oneOf = [] } = field as SchemaDescription;
  const choices = oneOf.filter((value) => value !== null && value !== undefined);
  if (choices.length) return choices.map((value) => JSON.stringify(value)).join(' | ');
  if (type === 'array') {
    const inner = (field as { innerType?: SchemaFieldDescription }).innerType;
    const shape = inner ? shapeOf(inner) : '';
    return shape ? `[${shape}]` : '';
  }
  if (type === 'object') return `{ ${fieldsOf(field)} }`;
  return type === 'boolean' ? 'true | false' : '';
}

function fieldsOf(field: SchemaFieldDescription): string {
  const { fields = {} } = field as { fields?: Record<string, SchemaFieldDescription> };
  return Object.entries(fields)
    .map(([name, inner]) => {
      const shape = shapeOf(inner);
      return `${name}${(inner as SchemaDescription).optional ? '?' : ''}${shape ? `: ${shape}` : ''}`;
    })
    .join(', ');
}

const argumentsOf = ({ schema }: Definition<string, unknown>): string => {
  const told = fieldsOf(schema.describe());
  return told ? `\`${told}\`` : 'No arguments.';
};

export const commandsPage = (): string =>
  [
    '# Commands',
    '',
    'Every way in which a session is changed, by the page, the [API](api.md#commands), the command line and undo alike: what it does, its',
    'arguments (those with a `?` may be left out) and an example. Made from `core/commands/` by `npm run commands`; the tests carry out each',
    'example.',
    ...Object.entries(commands)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .flatMap(([name, definition]) => {
        const { sentence, example } = docstrings.get(name)!;
        const told = argumentsOf(definition as unknown as Definition<string, unknown>);
        return ['', `## ${name}`, '', sentence, '', told, '', `    ${JSON.stringify(example)}`];
      }),
    ''
  ].join('\n');
