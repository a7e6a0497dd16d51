// isotaxis trace: a channel's paths to the output, to a bus, a return or a cue, with the level at every station.
import { trace, traceText, type Goal } from '$core/routing/trace';
import { called } from '$core/session/called';
import type { Channel, Session } from '$core/session/entities';
import { openPackage } from '$files/package';
import { Failure, must, tell } from './failure';

/** The channel that a name means; an id will do too. */
function named(session: Session, name: string): Channel {
  const found = called(session.channel.values(), name);
  if (found.length === 1) return found[0];
  if (found.length > 1)
    throw new Failure(`${found.length} channels are called “${name}”. Give the id of one: ${found.map(({ id }) => id).join(', ')}.`);
  throw new Failure(`There is no channel “${name}” in this package. “isotaxis info” lists them.`);
}

export async function traceChannel(
  file: string,
  name: string,
  to: string | null,
  at: number | null
): Promise<{ result: object; text: string }> {
  const { session, mended } = must(await openPackage(file, '', { audio: false }));
  tell(mended);
  const goal: Goal | undefined = to === null ? undefined : { id: named(session, to).id };
  const traced = must(trace(session, named(session, name).id, goal, { at }));
  // JSON has no −∞.
  const result = JSON.parse(JSON.stringify(traced, (_, value: unknown) => (value === -Infinity ? '-inf' : value))) as object;
  return { result, text: traceText(session, traced) };
}
