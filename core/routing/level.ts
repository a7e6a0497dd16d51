// What a channel's level, mute and solo are: its own and those of all VCAs above it, each once. Everything that says what is heard
// asks here; only what shows or sets a fader reads the fader.
import type { Channel, Session } from '../session/entities.ts';
import { vcasAbove } from '../session/vcas.ts';
import type { Db } from '../units.ts';

type Of<F extends keyof Channel> = Pick<Channel, 'id' | F>;

/**
 * Effective level in dB: own fader + Σ of the VCAs above; −∞ anywhere gives −∞. It may pass +12 dB. A VCA's own is what it and those above
 * add to each of its members. `levelOf(session, channel)`
 */
export function levelOf(session: Session, channel: Of<'faderDb'>): Db {
  const above = vcasAbove(session, channel.id);
  if (above.length === 0) return channel.faderDb;
  let level = channel.faderDb;
  for (const id of above) level += session.channel.get(id)?.faderDb ?? 0;
  // The same sum whatever it is made of: folding a VCA in must not differ in the last bit.
  return Math.round(level * 1e9) / 1e9;
}

const anyAbove = (session: Session, id: string, holds: (vca: Channel) => boolean): boolean =>
  vcasAbove(session, id).some((above) => {
    const vca = session.channel.get(above);
    return vca !== undefined && holds(vca);
  });

/** Whether it is muted: by itself or by a VCA above. */
export const mutedOf = (session: Session, channel: Of<'mute'>): boolean =>
  channel.mute || anyAbove(session, channel.id, ({ mute }) => mute);

/** Whether it is soloed: by itself or by a VCA above. */
export const soloedOf = (session: Session, channel: Of<'solo'>): boolean =>
  channel.solo || anyAbove(session, channel.id, ({ solo }) => solo);

/** The VCA above that mutes it, nearest first; undefined where none does. */
export const mutingVca = (session: Session, id: string): Channel | undefined =>
  vcasAbove(session, id)
    .map((above) => session.channel.get(above)!)
    .find(({ mute }) => mute);
