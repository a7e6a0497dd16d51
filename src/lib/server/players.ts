// Players' pages: a cue's token opens its levels, and nothing else of the session.
import * as yup from 'yup';
import { alone } from '$core/commands/alone';
import type { Command } from '$core/commands/index';
import { level } from '$core/commands/define';
import { ok, refuse, type Result } from '$core/result';
import type { Session } from '$core/session/entities';
import type { Database } from './db/database';
import type { OpenSession, Sessions } from './sessions';

const closed = () => refuse('closed', 'This page is closed. Ask the engineer for a new address.');

export type Seat = { readonly state: OpenSession; readonly cueId: string };

/** The session and cue that a token opens. */
export async function seatOf(database: Database, sessions: Sessions, token: string): Promise<Result<Seat>> {
  const [row] = await database.query('select session_id, channel_id from cue_token where id = $1', [token]);
  const state = row && (await sessions.open(String(row.session_id)));
  return state ? ok({ state, cueId: String(row.channel_id) }) : closed();
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
export async function playerMove(session: Session, cueId: string, body: unknown): Promise<Result<Command[]>> {
  let move: yup.InferType<typeof moveSchema>;
  try {
    move = await moveSchema.validate(body);
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
