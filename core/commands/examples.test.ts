// Every command is documented, and its documentation is true: a sentence and an example that can be carried out; and docs/commands.md
// says the same.
import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { commandsPage } from '../../tests/oracle/commandsPage.ts';
import { docstrings } from '../../tests/oracle/examples.ts';
import { exampleDesk } from '../../tests/oracle/playing.ts';
import { fits } from '../formats/gate.ts';
import { commit } from '../session/changes.ts';
import { commands } from './index.ts';
import { plan } from './plan.ts';

describe.each(Object.keys(commands))('%s', (name) => {
  it('has a sentence and an example that is carried out, says what it did, and can be kept', () => {
    const said = docstrings.get(name)!;
    expect(said?.sentence, `${name} needs a docstring with an @example`).toMatch(/^\S.*\S$/);
    const session = exampleDesk();
    const planned = plan(session, said.example);
    expect(planned).toMatchObject({ ok: true });
    if (!planned.ok) return;
    expect(planned.value.label).toMatch(/\S/);
    // A batch’s name changes nothing; everything else does.
    expect(planned.value.changes.length > 0).toBe(name !== 'batch.name');
    commit(session, planned.value.changes);
    expect(fits(session, planned.value.changes)).toMatchObject({ ok: true });
  });
});

it('docs/commands.md is made from the docstrings: npm run commands', () => {
  expect(readFileSync('docs/commands.md', 'utf8')).toBe(commandsPage());
});
