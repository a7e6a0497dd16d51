// Players' pages: a cue's token opens its levels, and nothing else of the session.
import * as yup from 'yup';
import { alone } from '$core/commands/alone';
import type { Command } from '$core/commands/index';
import { level } from '$core/commands/define';
import { ok, refuse, type Result } from '$core/result';
import type { Session } from '$core/session/entities';
import type { Database } from './db/database';
import type { Reading, Sessions } from './sessions';

const closed = () => refuse('closed', 'This page is closed. Ask the engineer for a new address.');

export type Seat = { readonly state: Reading; readonly cueId: string };

/** Reads the session and cue that a token opens, as `Sessions.read` does. */
export async function atSeat<T>(
  database: Database,
  sessions: Sessions,
  token: string,
  work: (seat: Seat) => Result<T> | Promise<Result<T>>
): Promise<Result<T>> {
  const [row] = await database.query('select session_id from cue_token where id = $1', [token]);
  if (!row) return closed();
  const read = await sessions.read(String(row.session_id), (state) => {
    const cueId = state.session.cueToken.get(token)?.channelId;
    return cueId === undefined ? closed() : work({ state, cueId });
  });
  return read ?? closed();
}

const moveSchema = yup.object({
  level: level(),
  sends: yup
    .array()
    .of(yup.object({ source: yup.string().max(80).required(), level: level(), on: yup.boolean() }))
    .max(500)
    .default([])
});

/** The commands that a player's move means: levels and switches of sends that are there, and the level of the cue. */
export function playerMove(session: Session, cueId: string, body: unknown): Result<Command[]> {
  let move: yup.InferType<typeof moveSchema>;
  try {
    move = moveSchema.validateSync(body);
  } catch (error) {
    if (error instanceof yup.ValidationError) return refuse('bad-request', `This is not understood: ${error.message}.`);
    throw error;
  }
  const strange = move.sends.find(({ source }) => !session.send.has(`${source}\n${cueId}`));
  if (strange) return refuse('not-found', 'That channel is not in your mix any more. Load this page again.');
  const commands: Command[] = [
    ...(move.level === undefined ? [] : [{ do: 'faders.set' as const, levels: [{ id: cueId, level: move.level }] }]),
    ...(move.sends.length ? [{ do: 'sends.set' as const, sends: move.sends.map((send) => ({ ...send, target: cueId })) }] : [])
  ];
  // Whatever the engineer has linked it with: a player moves this cue and nothing else.
  return commands.length ? ok(alone(commands)) : refuse('bad-request', 'Nothing to set.');
}
