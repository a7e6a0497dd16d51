// A version heard in place: the session as the version has it, so that the mix that plays is the version. Nothing of it is kept; what its
// stems' levels are lies on their ways into the mix bus, which no row holds.
import { mutedOf } from '../routing/level.ts';
import { alwaysMuted, everLoud } from '../routing/overTime.ts';
import { MIX } from '../session/create.ts';
import { settingsOf, type Session, type Version } from '../session/entities.ts';
import { known } from '../session/facts.ts';
import { soundness } from '../stems/soundness.ts';
import type { Db } from '../units.ts';
import { levelAt, withApart } from './passes.ts';

export type InPlace = {
  /** Rows that the version does not touch are the session's own. */
  readonly session: Session;
  /** By stem, dB on its way into the mix bus. */
  readonly stems: ReadonlyMap<string, Db>;
};

/** The tables of which a version has rows of its own; all others are the session's. */
export const OVERRIDDEN = ['channel', 'insert', 'settings', 'vcaMember', 'lane'] as const;

/** `inPlace(session, version).session` is what an engine plays, with `stems` set. */
export function inPlace(session: Session, version: Version): InPlace {
  const apart = withApart(session, version);
  const insert = new Map(session.insert);
  for (const [id, on] of Object.entries(version.inserts)) {
    const row = insert.get(id);
    if (row) insert.set(id, { ...row, bypass: !on });
  }
  const channel = new Map(apart.channel);
  let { settings } = session;
  let { vcaMember } = apart;
  const mix = channel.get(MIX)!;
  if (!version.fader) {
    // At 0 dB whatever stands above it, and muted as it is.
    channel.set(MIX, { ...mix, faderDb: 0, mute: mutedOf(session, mix) });
    vcaMember = new Map([...vcaMember].filter(([, { channelId }]) => channelId !== MIX));
  }
  // What the version sets no lane moves.
  const lane = new Map(
    [...session.lane].filter(
      ([, { channelId, of, insertId }]) =>
        !(channelId === MIX && !version.fader && (of === 'fader' || of === 'faderTrim')) &&
        !(of === 'bypass' && version.inserts[insertId!] !== undefined)
    )
  );
  if (!version.fades) settings = new Map([['settings', { ...settingsOf(session), fadeIn: 0, fadeOut: 0 }]]);
  const stems = new Map(Object.entries(version.stems).map(([id, level]) => [id, levelAt(level)]));
  return { session: { ...apart, channel, insert, settings, vcaMember, lane }, stems };
}

/** Whether of a version nothing would be heard: each stem is out, or silent itself. False where something else comes into the mix bus. */
export function silentVersion(session: Session, version: Version): boolean {
  const { stems, flaws } = known(session, soundness);
  const as = withApart(session, version);
  return (
    stems.length > 0 &&
    flaws.every(({ code }) => code !== 'stray' && code !== 'side-entry') &&
    stems
      .map(({ id }) => as.channel.get(id)!)
      .every((stem) => version.stems[stem.id] === '-inf' || alwaysMuted(as, stem) || !everLoud(as, stem))
  );
}
