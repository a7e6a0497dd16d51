// What a version of the mix is made of, in words.
import { processors } from '../processors/index.ts';
import { MIX } from '../session/create.ts';
import type { Session, Version } from '../session/entities.ts';
import { known } from '../session/facts.ts';
import { dbText } from '../session/select.ts';
import { branchOf } from '../routing/graph.ts';
import { shares } from '../stems/shares.ts';
import { levelAt } from './passes.ts';

/** `versionWords(session, version)` → `['without VOICES', 'the limiter on FINAL off']`; of one that is the mix, none. */
export function versionWords(session: Session, { stems, inserts, fader, fades, channels }: Version): string[] {
  const nameOf = (id: string) => session.channel.get(id)?.name;
  const levels = Object.entries(stems).flatMap(([id, level]) => (session.channel.get(id)?.stem ? [{ name: nameOf(id)!, level }] : []));
  const out = levels.filter(({ level }) => level === '-inf').map(({ name }) => name);
  const total = [...session.channel.values()].filter(({ stem }) => stem);
  const left = total.filter(({ id }) => stems[id] !== '-inf').map(({ name }) => name);
  const only = out.length > left.length && left.length > 0;
  return [
    ...(only ? [`only ${left.join(', ')}`] : out.length ? [`without ${out.join(', ')}`] : []),
    ...levels.flatMap(({ name, level }) => (level === '-inf' ? [] : [`${name} ${dbText(level)} dB`])),
    ...Object.entries(inserts).flatMap(([id, on]) => {
      const insert = session.insert.get(id);
      return insert ? [`the ${processors[insert.type].title} on ${nameOf(insert.channelId) ?? 'the chain'} ${on ? 'on' : 'off'}`] : [];
    }),
    ...(fader ? [] : [`${nameOf(MIX) ?? 'mix'} fader at 0 dB`]),
    ...(fades ? [] : ['no fades']),
    ...channels.flatMap(({ id, by, mute }) => {
      const name = nameOf(id);
      if (name === undefined) return [];
      const changes = [
        ...(by === undefined ? [] : [`${dbText(levelAt(by))} dB`]),
        ...(mute === undefined ? [] : [mute ? 'muted' : 'not muted'])
      ];
      return changes.length ? [`${name} ${changes.join(', ')}`] : [];
    })
  ];
}

/** Stems that a version leaves out of which something goes on sounding in others, and in which. */
export function remains(session: Session, version: Version): { readonly stem: string; readonly inside: readonly string[] }[] {
  const apart = new Set(version.channels.filter(({ mute, by }) => mute === true || by === '-inf').map(({ id }) => id));
  return [...known(session, shares)].flatMap(([stem, others]) => {
    const inside = others.filter((id) => version.stems[id] !== '-inf');
    const silent = tracksOf(session, stem).every((id) => apart.has(id));
    return version.stems[stem] === '-inf' && inside.length && !silent ? [{ stem, inside }] : [];
  });
}

/** Tracks in a stem's branch. */
export const tracksOf = (session: Session, stem: string): string[] =>
  branchOf(session, stem).filter((id) => session.channel.get(id)?.kind === 'track');
