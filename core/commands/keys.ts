// Key tracks: channels that only key inputs hear, and the patterns they play.
import * as yup from 'yup';
import { ok, refuse, type Result } from '../result.ts';
import { removal, update } from '../session/changes.ts';
import { newChannel, channelCreation, lastPosition, nextBorn } from '../session/create.ts';
import { MOST_FRAMES } from '../units.ts';
import type { Channel, Pattern, Session } from '../session/entities.ts';
import { idsBy } from '../session/lookup.ts';
import { channelsOf, counted } from '../session/select.ts';
import { define, id, ids, name, newId, text } from './define.ts';

const between = (low: number, high: number) => yup.number().min(low).max(high);
const MOST_PULSES = 100_000;
/** A list of so many numbers that a schema for each would hold everybody up. */
const numbers = (most: number) =>
  yup
    .mixed<number[]>((value): value is number[] => Array.isArray(value))
    .test(
      'numbers',
      ({ path }) => `${path} holds at most ${MOST_PULSES} numbers from 0 to ${most}`,
      (list) => !list || (list.length <= MOST_PULSES && list.every((value) => typeof value === 'number' && value >= 0 && value <= most))
    );

/** Quarter notes, sixteenths and dots: what `every` offers. */
export const NOTE_VALUES = [4, 2, 1.5, 1, 0.75, 0.5, 0.25] as const;

/** A pulse of a sixteenth's length that falls fast: short enough to let go between notes. */
export const defaultPattern: Pattern = { of: 'pulse', every: 1, accentDb: 0, levelDb: 0, length: 20, decay: 80 };

const patternFields = yup
  .object({
    of: yup
      .string()
      .oneOf(['pulse', 'notes', 'onsets'] as const)
      .required(),
    levelDb: between(-120, 0).required(),
    length: between(0, 10_000).required(),
    decay: between(0, 10_000).required(),
    every: between(1 / 32, 64),
    accentDb: between(0, 24),
    file: text(255),
    trackId: id(),
    at: numbers(MOST_FRAMES),
    velocity: numbers(1)
  })
  .nullable()
  .default(null);
type Given = yup.InferType<typeof patternFields>;

/** The pattern that is meant, with nothing in it that its kind does not have. */
function checked(session: Session, given: Given, present: Pattern | null = null): Result<Pattern | null> {
  if (!given) return ok(null);
  const shape = { levelDb: given.levelDb, length: given.length, decay: given.decay };
  const at = [...(given.at ?? [])].sort((a, b) => a - b);
  if (given.of === 'pulse') return ok({ of: 'pulse', ...shape, every: given.every ?? 1, accentDb: given.accentDb ?? 0 });
  if (given.of === 'onsets') {
    // The onsets of a track that was removed since are still its onsets.
    const known = present?.of === 'onsets' && present.trackId === given.trackId;
    if (!known && session.channel.get(given.trackId ?? '')?.kind !== 'track')
      return refuse('not-found', 'The track whose onsets these are is not there.');
    return ok({ of: 'onsets', ...shape, trackId: given.trackId!, at: at.map(Math.round) });
  }
  const velocity = given.velocity ?? at.map(() => 1);
  if (velocity.length !== at.length) return refuse('bad-arguments', 'Each note needs one velocity.');
  const order = (given.at ?? []).map((time, i) => [time, velocity[i]] as const).sort(([a], [b]) => a - b);
  return ok({ of: 'notes', ...shape, file: given.file ?? '', at, velocity: order.map(([, value]) => value) });
}

/**
 * A key track, with a pulse on every quarter note where no pattern is given; it takes clips as well.
 * @example { "do": "keys.add", "id": "x", "name": "Kick key" }
 */
export const keysAdd = define({
  name: 'keys.add',
  schema: yup.object({ id: newId().required(), name: name().required(), pattern: patternFields }),
  label: (_, { name }) => `New key track ${name}`,
  plan: (session, { id, name, pattern }) => {
    if (session.channel.has(id)) return refuse('exists', 'A channel with this id exists already.');
    const plays = checked(session, pattern);
    if (!plays.ok) return plays;
    const channel: Channel = {
      ...newChannel({ id, kind: 'key', name, position: lastPosition(session), born: nextBorn(session), width: 1 }),
      pattern: plays.value ?? defaultPattern
    };
    return ok([channelCreation(channel)]);
  }
});

/**
 * What a key track or a click plays; null leaves it its clips.
 * @example { "do": "patterns.set", "id": "key", "pattern": {"of": "pulse", "every": 0.5, "accentDb": 0, "levelDb": -6, "length": 20, "decay": 80} }
 */
export const patternsSet = define({
  name: 'patterns.set',
  schema: yup.object({ id: id().required(), pattern: patternFields }),
  label: (session, { id }) => `Pattern of ${session.channel.get(id)?.name ?? 'a track'}`,
  plan: (session, { id, pattern }) => {
    const found = channelsOf(session, [id]);
    if (!found.ok) return found;
    const [channel] = found.value;
    if (channel.kind !== 'key' && channel.kind !== 'track')
      return refuse('not-a-track', `${channel.name} is no track: it plays no pattern.`);
    const plays = checked(session, pattern, channel.pattern);
    return plays.ok ? ok(update(session, 'channel', id, { pattern: plays.value })) : plays;
  }
});

/**
 * Makes tracks key tracks, which go nowhere, send nothing and are in no VCA, or key tracks tracks again.
 * @example { "do": "tracks.key", "ids": ["d"], "on": true }
 */
export const tracksKey = define({
  name: 'tracks.key',
  schema: yup.object({ ids: ids(), on: yup.boolean().required() }),
  label: (session, { ids, on }) => `${counted(session, ids)}: ${on ? 'key track' : 'track'}`,
  plan: (session, { ids, on }) => {
    const found = channelsOf(session, ids);
    if (!found.ok) return found;
    const strange = found.value.find(({ kind }) => kind !== 'track' && kind !== 'key');
    if (strange) return refuse('not-a-track', `${strange.name} is no track. Choose tracks.`);
    return ok(
      ids.flatMap((id) => [
        ...update(
          session,
          'channel',
          id,
          on ? { kind: 'key', outputId: null, outputPair: null, solo: false, soloSafe: false } : { kind: 'track' }
        ),
        ...(on ? idsBy(session, 'send', 'sourceId', id).map((key) => removal(session, 'send', key)) : []),
        ...(on ? idsBy(session, 'vcaMember', 'channelId', id).map((key) => removal(session, 'vcaMember', key)) : [])
      ])
    );
  }
});
