// Writes docs/commands.md from the docstrings and schemas of the commands: npm run commands, after a change of them.
import { writeFileSync } from 'node:fs';
import { bundled } from './bundled.mjs';

const { commandsPage } = await bundled('tests/oracle/commandsPage.ts', 'commands');
writeFileSync('docs/commands.md', commandsPage());
