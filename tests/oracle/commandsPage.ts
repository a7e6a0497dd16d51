// docs/commands.md: every command with what it does and an example, from the docstrings.
import { commands } from '../../core/commands/index.ts';
import { docstrings } from './examples.ts';

export const commandsPage = (): string =>
  [
    '# Commands',
    '',
    'Every way in which a session is changed, by the page, the [API](api.md#commands), the command line and undo alike. Made from the docstrings in',
    '`core/commands/` by `npm run commands`; the tests carry out each example.',
    ...Object.keys(commands)
      .sort()
      .flatMap((name) => {
        const { sentence, example } = docstrings.get(name)!;
        return ['', `## ${name}`, '', sentence, '', `    ${JSON.stringify(example)}`];
      }),
    ''
  ].join('\n');
