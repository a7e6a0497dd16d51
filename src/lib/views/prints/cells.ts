// The version sheet without its looks: its rows, what stands in a cell, and what a cell being set makes of a version.
import type { Command } from '$core/commands/index';
import { AS_THE_MIX, type Parts } from '$core/prints/usual';
import { levelAt } from '$core/prints/passes';
import { versionWords } from '$core/prints/words';
import { processors } from '$core/processors/index';
import { branchOf, mixChain } from '$core/routing/graph';
import type { Session, Version, Written } from '$core/session/entities';
import { insertsOf } from '$core/session/select';
import { stemsOf } from '$core/stems/soundness';
import { dbText, parseDb } from '$lib/ui/format';

export type Row =
  | { readonly kind: 'stem'; readonly id: string; readonly name: string; readonly colour: number | null; readonly tracks: number }
  | { readonly kind: 'insert'; readonly id: string; readonly name: string; readonly bypass: boolean }
  | { readonly kind: 'fader' | 'fades' | 'apart'; readonly id: string; readonly name: string };

/** Stems as the tree has them, then the mix chain's inserts as the sound passes them, its fader and fades, and what is set apart. */
export function rowsOf(session: Session): Row[] {
  const stems = stemsOf(session).sort((a, b) => a.position - b.position);
  const chain = mixChain(session);
  return [
    ...stems.map(({ id, name, colour }): Row => {
      const tracks = branchOf(session, id).filter((each) => session.channel.get(each)!.kind === 'track').length;
      return { kind: 'stem', id, name, colour, tracks };
    }),
    ...chain.flatMap((channel) =>
      insertsOf(session, channel.id).map(({ id, type, bypass }): Row => ({
        kind: 'insert',
        id,
        name: `${channel.name} · ${processors[type].title}`,
        bypass
      }))
    ),
    { kind: 'fader', id: 'fader', name: `${chain[0].name} fader and its moves` },
    { kind: 'fades', id: 'fades', name: 'Fades' },
    { kind: 'apart', id: 'apart', name: 'Channels set apart' }
  ];
}

/** What a cell is set to: a level, in or out (on or off), or as the mix has it. */
export type Value = number | 'in' | 'out' | 'mix';

export const isIn = (version: Parts, row: Row): boolean => {
  if (row.kind === 'stem') return levelAt(version.stems[row.id]) > -Infinity;
  if (row.kind === 'insert') return version.inserts[row.id] ?? !row.bypass;
  return row.kind === 'apart' ? version.channels.length === 0 : version[row.kind];
};

/** dB of a stem that is in and not as loud as in the mix; else null. */
export function levelOf(version: Parts, row: Row): number | null {
  const level = row.kind === 'stem' ? version.stems[row.id] : undefined;
  return typeof level === 'number' && level !== 0 ? level : null;
}

/** "in", "out", "+1.0", "on", "off"; of what is set apart, in words. */
export function cellText(session: Session, version: Version, row: Row): string {
  if (row.kind === 'apart') return versionWords(session, { ...version, ...AS_THE_MIX, channels: version.channels }).join('; ');
  const level = levelOf(version, row);
  if (level !== null) return dbText(level);
  return row.kind === 'stem' ? (isIn(version, row) ? 'in' : 'out') : isIn(version, row) ? 'on' : 'off';
}

/** What a text that is typed or pasted means in a row; null: nothing. An empty one is as the mix. */
export function parseCell(text: string, row: Row): Value | null {
  const plain = text.trim().toLowerCase();
  if (plain === '') return 'mix';
  if (plain === 'in' || plain === 'on') return 'in';
  if (plain === 'out' || plain === 'off') return 'out';
  const level = row.kind === 'stem' ? parseDb(plain) : null;
  return level === null ? null : level === -Infinity ? 'out' : Math.max(-120, Math.min(12, level));
}

/** A version’s parts with a cell set. */
export function withCell(parts: Parts, row: Row, value: Value): Parts {
  const left = (from: Readonly<Record<string, unknown>>) => Object.fromEntries(Object.entries(from).filter(([id]) => id !== row.id));
  if (row.kind === 'stem') {
    const level: Written = value === 'out' ? '-inf' : typeof value === 'number' ? value : 0;
    return { ...parts, stems: level === 0 ? (left(parts.stems) as Parts['stems']) : { ...parts.stems, [row.id]: level } };
  }
  if (row.kind === 'insert') {
    const on = value !== 'out';
    const own = value !== 'mix' && on === row.bypass;
    return { ...parts, inserts: own ? { ...parts.inserts, [row.id]: on } : (left(parts.inserts) as Parts['inserts']) };
  }
  if (row.kind === 'apart') return value === 'mix' ? { ...parts, channels: [] } : parts;
  return { ...parts, [row.kind]: value !== 'out' };
}

/** The command that gives a version these parts, or none where it has them. */
export function setting(version: Version, parts: Parts): Command[] {
  const changed = (Object.keys(AS_THE_MIX) as (keyof Parts)[]).filter((key) => JSON.stringify(version[key]) !== JSON.stringify(parts[key]));
  return changed.length ? [{ do: 'versions.set', id: version.id, ...Object.fromEntries(changed.map((key) => [key, parts[key]])) }] : [];
}

export const partsOf = ({ stems, inserts, fader, fades, channels }: Version): Parts => ({ stems, inserts, fader, fades, channels });

/** A name that no version has: "Instrumental 2". */
export function freeName(session: Session, wanted: string): string {
  const taken = new Set([...session.version.values()].map(({ name }) => name.toLowerCase()));
  let name = wanted;
  for (let n = 2; taken.has(name.toLowerCase()); n++) name = `${wanted.replace(/ \d+$/, '')} ${n}`;
  return name;
}

/** New versions with these parts after one, or at the end: made, and put in their place, as one batch. */
export function making(
  session: Session,
  wanted: readonly { readonly name: string; readonly parts: Parts }[],
  after: string | null,
  newId: () => string
): Command[] {
  const order = [...session.version.values()].sort((a, b) => a.position - b.position).map(({ id }) => id);
  const made = wanted.map(({ name, parts }) => ({ do: 'versions.add' as const, id: newId(), name, ...parts }));
  const place = after === null ? order.length : order.indexOf(after) + 1;
  const ids = made.map(({ id }) => id);
  return [
    ...made,
    ...(place < order.length ? [{ do: 'versions.order' as const, ids: [...order.slice(0, place), ...ids, ...order.slice(place)] }] : [])
  ];
}
