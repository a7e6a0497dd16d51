// isotaxis info: what a session package holds.
import { endOf } from '$core/engine/engine';
import { tree } from '$core/routing/facts';
import { known } from '$core/session/facts';
import { settingsOf } from '$core/session/entities';
import { idsBy } from '$core/session/lookup';
import { dbText } from '$core/session/select';
import { openPackage } from '$files/package';
import { must } from './failure';

export async function info(file: string): Promise<{ result: object; text: string }> {
  const { session } = must(await openPackage(file, '', { audio: false }));
  const { name, rate, bpm } = settingsOf(session);
  const count = (kind: string) => idsBy(session, 'channel', 'kind', kind).length;
  const frames = endOf(session);
  const result = {
    name,
    rate,
    bpm,
    frames,
    seconds: Number((frames / rate).toFixed(3)),
    tracks: count('track'),
    buses: count('bus'),
    returns: count('return'),
    cues: count('cue'),
    keys: count('key'),
    sends: session.send.size,
    inserts: session.insert.size,
    recordings: session.media.size
  };
  const { chain, mix, elsewhere, cues, nowhere } = known(session, tree);
  const lines = [...chain, ...mix, ...elsewhere, ...cues, ...nowhere].map(
    ({ channel, depth }) =>
      `  ${'  '.repeat(depth)}${channel.name.padEnd(Math.max(1, 36 - depth * 2))} ${dbText(channel.faderDb).padStart(6)} dB`
  );
  const head = `${name}: ${result.tracks} tracks, ${result.buses} buses, ${result.returns} returns, ${result.sends} sends; ${result.seconds} s at ${rate} Hz\n`;
  return { result, text: `${head}${lines.join('\n')}\n` };
}
