// plan() and planBatch(): from commands to changes, or to a refusal that a person can read.
import { ValidationError } from 'yup';
import { ok, refuse, type Result } from '../result.ts';
import { strangeField } from '../json.ts';
import { commit, merge, type Change } from '../session/changes.ts';
import { heardAt } from '../lanes/heard.ts';
import { withLanes } from './aftermath.ts';
import { commands, type Command, type CommandName } from './index.ts';
import type { Definition, Expansion } from './define.ts';
import { withHand, type OnLane } from './hand.ts';
import { inSequence } from './sequence.ts';
import type { Session } from '../session/entities.ts';

export type Planned = { readonly changes: Change[]; readonly label: string };

/** Deeper than any command is nested. */
const DEEPEST = 8;

type Checked = { readonly definition: Definition<string, unknown>; readonly name: string; readonly args: unknown; readonly alone: boolean };

/** A command with its arguments checked and completed. */
function checked(command: Command): Result<Checked> {
  const called: unknown = (command as Command | null)?.do;
  if (typeof called !== 'string') return refuse('unknown-command', 'A command says what it does as text, in “do”.');
  if (!Object.hasOwn(commands, called)) return refuse('unknown-command', `There is no command “${called}”.`);
  const strange = strangeField(command, DEEPEST);
  if (strange) return refuse('bad-arguments', `${command.do}: no command has a field “${strange}”.`);
  const definition = commands[command.do] as Definition<string, unknown>;
  const { do: name, alone = false, ...given } = command;
  if (typeof alone !== 'boolean') return refuse('bad-arguments', `${name}: alone is true or false.`, { path: 'alone' });
  let args: unknown;
  try {
    // What a command does not know is left out: a field more would be kept in memory and nowhere else.
    args = definition.schema.validateSync(given, { stripUnknown: true });
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error;
    return refuse('bad-arguments', `${name}: ${error.message}.`, { path: error.path });
  }
  return ok({ definition, name, args, alone });
}

/** The one place where a command is carried over to what is linked with what it touches. */
function expansion(session: Session, { definition, args, alone }: Checked): Expansion | null {
  if (alone || !definition.linked) return null;
  const { lane, at = 0 } = args as OnLane;
  if (lane !== 'trim' && lane !== 'write') return definition.linked(session, args);
  // A hand on lanes: what follows keeps its distance from what is heard there, and its lanes are trimmed or written too.
  const found = definition.linked(heardAt(session, at), args);
  return found && { ...found, steps: withHand(found.steps, lane, at) };
}

/** A command as commands that act alone: itself, and where link groups carry it on, those that move the others. */
export function expanded(session: Session, command: Command): Result<Command[]> {
  const read = checked(command);
  if (!read.ok) return read;
  const { name, args } = read.value;
  const steps = expansion(session, read.value)?.steps ?? [{ ...(args as object), do: name }];
  return ok(steps.map((step) => ({ ...step, alone: true }) as unknown as Command));
}

/** What a command would change in `session`, and its name in the undo list. Pure: nothing is committed. */
export function plan(session: Session, command: Command): Result<Planned> {
  const read = checked(command);
  if (!read.ok) return read;
  const { definition, args } = read.value;
  const linked = expansion(session, read.value);
  const said = definition.label(session, args);
  if (!linked) {
    const planned = definition.plan(session, args);
    return planned.ok ? ok({ changes: withLanes(session, planned.value), label: said }) : planned;
  }
  const planned = inSequence(session, linked.steps, ({ do: name, ...given }) =>
    (commands[name as CommandName] as Definition<string, unknown>).plan(session, given)
  );
  if (!planned.ok) return planned;
  const also = linked.followers ? `, and ${linked.followers} linked` : '';
  return ok({ changes: withLanes(session, planned.value), label: `${said}${also}${linked.word ? ` (${linked.word})` : ''}` });
}

/**
 * Plans commands one upon another and leaves the session as it was.
 * Any refusal refuses the whole batch.
 */
export function planBatch(session: Session, batch: readonly Command[]): Result<Planned> {
  const undo: Change[][] = [];
  let changes: Change[] = [];
  let label = '';
  try {
    for (const command of batch) {
      const planned = plan(session, command);
      if (!planned.ok) return planned;
      label ||= planned.value.label;
      undo.push(commit(session, planned.value.changes));
      changes = changes.length ? merge(changes, planned.value.changes) : planned.value.changes;
    }
  } finally {
    for (const back of undo.reverse()) commit(session, back);
  }
  return ok({ changes, label });
}
