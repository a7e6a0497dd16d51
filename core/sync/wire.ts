// What a page and the server say to each other of a session: batches, answers and news, and what a refusal means for a batch.
import type { Code } from '../codes.ts';
import type { Command } from '../commands/index.ts';
import type { Refusal } from '../result.ts';
import type { Change } from '../session/changes.ts';
import type { Outlook } from '../session/history.ts';

/** Commands of one gesture, under an id that makes sending them twice harmless. */
export type Batch = { readonly id: string; readonly gesture: string | null; readonly commands: readonly Command[] };

/** A batch that the server has carried out; its changes as they travel. */
export type Done = { readonly revision: number; readonly id: string; readonly changes: readonly Change[] };
/** What a page is told of batches of others, and of its own. */
export type News = Done & { readonly history: Outlook };
/** The answer to a batch: `missed` is what was done since the page's base, oldest first, or null where that is no longer known. */
export type Answer = {
  readonly revision: number;
  readonly missed: readonly Done[] | null;
  readonly changes: readonly Change[];
  readonly history: Outlook;
};

/** What a refusal means for the batch that met it. */
export type Fate = 'try again' | 'try a few times' | 'set aside' | 'refused';

const FATES: Partial<Record<Code, Fate>> = {
  // Nobody answered, or it was not about this batch.
  offline: 'try again',
  unavailable: 'try again',
  passphrase: 'try again',
  wait: 'try again',
  'too-slow': 'try again',
  // Once may be chance.
  server: 'try a few times',
  // It will not be taken as it is, though the page thought it right.
  'bad-request': 'set aside',
  'bad-arguments': 'set aside',
  'disk-full': 'set aside',
  elsewhere: 'set aside',
  inconsistent: 'set aside',
  invalid: 'set aside',
  'no-session': 'set aside',
  'too-large': 'set aside',
  'unknown-command': 'set aside'
};
/** Everything else is the rules’ answer to what others did meanwhile: said, and forgotten. */
export const fateOf = ({ code }: Refusal): Fate => FATES[code] ?? 'refused';

/** Commands as JSON can carry them: −∞ travels as "-inf", which every command understands. */
export const forWire = (commands: readonly Command[]): Command[] =>
  JSON.parse(JSON.stringify(commands, (_, value: unknown) => (value === -Infinity ? '-inf' : value))) as Command[];
