// isotaxis info: what a session package holds.
import { endOf } from '$core/session/select';
import { tree } from '$core/routing/facts';
import { levelOf } from '$core/routing/level';
import { known } from '$core/session/facts';
import { settingsOf } from '$core/session/entities';
import { idsBy, rowsBy } from '$core/session/lookup';
import { heldBy, vcasAbove } from '$core/session/vcas';
import { dbText } from '$core/session/select';
import { openPackage } from '$files/package';
import { must, tell } from './failure';

export async function info(file: string): Promise<{ result: object; text: string }> {
  const { session, mended } = must(await openPackage(file, '', { audio: false }));
  tell(mended);
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
    vcas: count('vca'),
    links: session.link.size,
    sends: session.send.size,
    inserts: session.insert.size,
    recordings: session.media.size
  };
  const { chain, mix, elsewhere, cues, nowhere, vcas } = known(session, tree);
  const named = (ids: readonly string[]) => ids.map((id) => session.channel.get(id)!.name).join(', ');
  const lines = [...vcas, ...chain, ...mix, ...elsewhere, ...cues, ...nowhere].map(({ channel, depth }) => {
    const level = levelOf(session, channel);
    const head = `  ${'  '.repeat(depth)}${channel.name.padEnd(Math.max(1, 36 - depth * 2))} ${dbText(channel.faderDb).padStart(6)} dB`;
    if (channel.kind === 'vca') return `${head}  VCA: ${named(heldBy(session, channel.id)) || 'nothing in it'}`;
    return level === channel.faderDb ? head : `${head}  ${dbText(level)} dB with ${named(vcasAbove(session, channel.id))}`;
  });
  const groups = [...session.link.values()].map(({ id, name: link, badge, attributes, active }) => {
    const members = rowsBy(session, 'linkMember', 'linkId', id).map(({ channelId }) => channelId);
    return `  ${link} (${badge}${active ? '' : ', paused'}): ${attributes.join(', ')}: ${named(members)}`;
  });
  if (groups.length) lines.push('Link groups:', ...groups);
  const head = `${name}: ${result.tracks} tracks, ${result.buses} buses, ${result.returns} returns, ${result.sends} sends; ${result.seconds} s at ${rate} Hz\n`;
  return { result, text: `${head}${lines.join('\n')}\n` };
}
