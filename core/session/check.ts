// What must hold of a session beyond its rows' shapes: said of the first thing that does not, in words.
import { refuse, ok, type Result } from '../result.ts';
import { rowId, type ChannelKind, type Session, type TableName, type Tables } from './entities.ts';
import { MIX } from './create.ts';
import { overlapIn } from './joints.ts';
import { channelsWithClips, clipsInTime } from './timeline.ts';
import { columnsOf, tableNames } from './tables.ts';
import { canBeHeld, vcaLoop } from './vcas.ts';

/** The longest timeline, seconds. */
export const DAY_S = 86_400;

/** Kinds that send nothing, and that take no sends. */
const NO_SEND: ReadonlySet<ChannelKind> = new Set(['cue', 'key', 'vca']);
const NO_ARRIVAL: ReadonlySet<ChannelKind> = new Set(['track', 'key', 'vca']);

/** Checks references, the mix bus and clips; loops are judged by the graph. */
export function checkSession(session: Session): Result<null> {
  const wrong = (what: string) => refuse('inconsistent', `The session contradicts itself: ${what}.`);
  for (const table of tableNames)
    for (const [key, row] of session[table])
      if (rowId(table, row as Tables[TableName]) !== key) return wrong(`a row of ${table} has two keys`);
  if (session.settings.size !== 1) return wrong('it needs one set of settings');
  const { rate } = [...session.settings.values()][0];
  const channels = session.channel;
  const mix = [...channels.values()].filter(({ kind }) => kind === 'mix');
  if (mix.length !== 1 || mix[0].id !== MIX || (mix[0].outputId === null && mix[0].outputPair === null))
    return wrong('it needs one mix bus, which goes to an interface output or on into its chain');
  for (const { name, kind, outputId, outputPair, stem, common } of channels.values()) {
    if ((stem && kind !== 'bus') || (common && !stem)) return wrong(`${name} is marked as a stem that it cannot be`);
    if (kind === 'key' && (outputId !== null || outputPair !== null)) return wrong(`${name} is a key track and has a main output`);
    if (kind === 'vca' && (outputId !== null || outputPair !== null)) return wrong(`${name} is a VCA and has a main output`);
    if (outputId === null) continue;
    if (outputPair !== null) return wrong(`${name} has two main outputs`);
    if (kind === 'cue') return wrong(`${name} is a cue and goes to a bus`);
    const target = channels.get(outputId);
    if (!target || (target.kind !== 'bus' && target.kind !== 'return' && target.kind !== 'mix'))
      return wrong(`${name} goes to something that is no bus`);
    if (kind === 'mix' && target.kind !== 'bus') return wrong('the mix bus goes to something that is no bus');
  }
  for (const { sourceId, targetId } of session.send.values()) {
    const target = channels.get(targetId);
    const source = channels.get(sourceId)?.kind;
    if (!source || NO_SEND.has(source) || !target || NO_ARRIVAL.has(target.kind)) return wrong('a send has no source or no target');
  }
  // A key may name a channel that was removed: then it hears nothing.
  for (const { channelId } of session.insert.values()) {
    const channel = channels.get(channelId);
    if (!channel || channel.kind === 'vca') return wrong('an insert stands on no channel');
  }
  for (const { vcaId, channelId } of session.vcaMember.values()) {
    const held = channels.get(channelId);
    if (channels.get(vcaId)?.kind !== 'vca' || !held || !canBeHeld(held)) return wrong('a VCA that is none, or holds what it cannot');
  }
  const loop = vcaLoop(session);
  if (loop) return refuse('loop', `A VCA holds itself: ${loop.map((id) => channels.get(id)!.name).join(' → ')}.`, { stations: loop });
  for (const row of session.media.values()) if (row.rate !== rate) return wrong(`${row.name} has another sample rate than the session`);
  for (const { channelId, mediaId, start, offset, length, channel, side, fadeIn, fadeOut } of session.clip.values()) {
    const recording = session.media.get(mediaId);
    const track = channels.get(channelId);
    if ((track?.kind !== 'track' && track?.kind !== 'key') || !recording) return wrong('a clip has no track or no recording');
    if (side !== 'both' && track.width === 1) return wrong(`a clip of ${track.name} is for one side of a mono track`);
    if (start + length > DAY_S * rate) return wrong(`a clip of ${track.name} ends more than a day after the beginning`);
    if (offset + length > recording.frames || channel + (side === 'both' ? track.width : 1) > recording.channels)
      return wrong(`a clip of ${track.name} is longer or wider than its recording`);
    if (fadeIn + fadeOut > length) return wrong(`the fades of a clip of ${track.name} are longer than it is`);
  }
  for (const id of channelsWithClips(session)) {
    const over = overlapIn(clipsInTime(session, id));
    if (over) return wrong(`two clips of ${channels.get(id)!.name} lie over each other without crossing`);
  }
  for (const { channelId } of session.cueToken.values())
    if (channels.get(channelId)?.kind !== 'cue') return wrong('a player’s page belongs to no cue');
  return dangling(session) ?? ok(null);
}

/** Columns that name a row which has to be there: the database asks for it too. */
const NEEDED = tableNames.flatMap((table) =>
  Object.entries(columnsOf(table)).flatMap(([column, { reference }]) =>
    reference && (reference.removed === 'goes' || reference.removed === 'routed') ? [{ table, column, to: reference.to as TableName }] : []
  )
);

/** What names a row that is not there, of any table, whether a rule above speaks of it or not. */
function dangling(session: Session): Result<never> | null {
  for (const { table, column, to } of NEEDED)
    for (const row of session[table].values()) {
      const named = (row as unknown as Readonly<Record<string, unknown>>)[column];
      if (named !== null && !session[to].has(named as string))
        return refuse('inconsistent', `The session contradicts itself: a row of ${table} names a row of ${to} that is not there.`);
    }
  return null;
}
