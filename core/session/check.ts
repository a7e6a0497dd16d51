// What must hold of a session beyond its rows' shapes: said of the first thing that does not, in words.
import { refuse, ok, type Result } from '../result.ts';
import { keyOf, type Session, type TableName, type Tables } from './entities.ts';
import { MIX } from './birth.ts';
import { tableNames } from './tables.ts';

/** Checks references, the mix bus and clips; loops are judged by the graph. */
export function checkSession(session: Session): Result<null> {
  const wrong = (what: string) => refuse('inconsistent', `The session contradicts itself: ${what}.`);
  for (const table of tableNames)
    for (const [key, row] of session[table])
      if (keyOf(table, row as Tables[TableName]) !== key) return wrong(`a row of ${table} has two keys`);
  if (session.settings.size !== 1) return wrong('it needs one set of settings');
  const { rate } = [...session.settings.values()][0];
  const channels = session.channel;
  const mix = [...channels.values()].filter(({ kind }) => kind === 'mix');
  if (mix.length !== 1 || mix[0].id !== MIX || mix[0].outputId !== null)
    return wrong('it needs one mix bus, which goes to an interface output');
  for (const { name, outputId, outputPair } of channels.values()) {
    if (outputId === null) continue;
    if (outputPair !== null) return wrong(`${name} has two main outputs`);
    const target = channels.get(outputId);
    if (!target || target.kind === 'track') return wrong(`${name} goes to something that is no bus`);
  }
  for (const { sourceId, targetId } of session.send.values()) {
    const target = channels.get(targetId);
    if (!channels.has(sourceId) || !target || target.kind === 'track' || target.kind === 'mix')
      return wrong('a send has no source or no target');
  }
  for (const { channelId, keyId } of session.insert.values())
    if (!channels.has(channelId) || (keyId !== null && !channels.has(keyId)))
      return wrong('an insert stands on no channel, or its key does');
  for (const row of session.media.values()) if (row.rate !== rate) return wrong(`${row.name} has another sample rate than the session`);
  for (const { channelId, mediaId, offset, length, channel } of session.clip.values()) {
    const recording = session.media.get(mediaId);
    const track = channels.get(channelId);
    if (track?.kind !== 'track' || !recording) return wrong('a clip has no track or no recording');
    if (offset + length > recording.frames || channel + track.width > recording.channels)
      return wrong(`a clip of ${track.name} is longer or wider than its recording`);
  }
  return ok(null);
}
