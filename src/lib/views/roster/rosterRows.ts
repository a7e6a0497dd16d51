// The Roster's rows: what each channel shows, filtered and sorted for looking, under the session's dividers.
import type { Channel, Clip, Divider, Media, RowFilter, Session } from '$core/session/entities';
import { filesOf, matchesFilter } from '$core/session/filter';
import { rowsBy } from '$core/session/lookup';
import { recordedLevel } from '$core/session/recorded';
import { ROLES } from '$core/session/roles';
import { inOrder } from '$core/session/select';
import { dividersAbove, END } from '../ledger/rows';

export type RosterRow = {
  readonly channel: Channel;
  readonly clips: readonly Clip[];
  readonly media: Media | null;
  readonly file: string;
  readonly seconds: number;
  readonly peakDb: number;
  readonly lufs: number | null;
  /** Where it goes, in words. */
  readonly to: string;
};
export type RosterItem = { readonly key: string; readonly divider: Divider | null; readonly row: RosterRow | null };

export type Column = 'order' | 'name' | 'file' | 'role' | 'family' | 'length' | 'rate' | 'depth' | 'channels' | 'peak' | 'loudness' | 'to';
export type Sorting = { readonly by: Column; readonly down: boolean };

/** Every channel but the mix bus, in the order of the session. */
export function rosterRows(session: Session): RosterRow[] {
  const { rate } = session.settings.get('settings')!;
  return inOrder(session)
    .filter(({ kind }) => kind !== 'mix')
    .map((channel) => {
      const own = rowsBy(session, 'clip', 'channelId', channel.id);
      return {
        channel,
        clips: own,
        media: own[0] ? (session.media.get(own[0].mediaId) ?? null) : null,
        file: filesOf(session, channel.id).join(' + '),
        seconds: Math.max(0, ...own.map(({ length }) => length)) / rate,
        ...recordedLevel(session, channel.id),
        to: pathText(session, channel)
      };
    });
}

/** "CHOIR in VOICES", "MIX", "nowhere". */
export function pathText(session: Session, { outputId, outputPair }: Channel): string {
  if (outputId === null) return outputPair === null ? 'nowhere' : `outputs ${outputPair * 2 + 1}–${outputPair * 2 + 2}`;
  const target = session.channel.get(outputId);
  const above = target?.outputId ? session.channel.get(target.outputId) : undefined;
  return !target ? '' : above && above.kind !== 'mix' ? `${target.name} in ${above.name}` : target.name;
}

const ROLE_PLACE = new Map<string, number>(ROLES.map(({ id }, i) => [id, i]));
const KEYS: Record<Exclude<Column, 'order'>, (row: RosterRow) => string | number> = {
  name: ({ channel }) => channel.name,
  file: ({ file }) => file,
  role: ({ channel }) => ROLE_PLACE.get(channel.role) ?? 99,
  family: ({ channel }) => channel.colour,
  length: ({ seconds }) => seconds,
  rate: ({ media }) => media?.rate ?? 0,
  depth: ({ media }) => Number(media?.encoding.slice(1) ?? 0),
  channels: ({ channel }) => channel.width,
  peak: ({ peakDb }) => peakDb,
  loudness: ({ lufs }) => lufs ?? -Infinity,
  to: ({ to }) => to
};
const words = new Intl.Collator(undefined, { numeric: true, sensitivity: 'base' });

type Wanted = { readonly filter: RowFilter; readonly sorting: Sorting; readonly hidden: boolean };

/** The rows to show. Hidden ones are left out unless `hidden`; dividers stand only where the order is the session's. */
export function rosterItems(session: Session, rows: readonly RosterRow[], { filter, sorting, hidden }: Wanted): RosterItem[] {
  const shown = rows.filter(({ channel }) => (hidden || !channel.hidden) && matchesFilter(session, channel, filter));
  const itemOf = (row: RosterRow): RosterItem => ({ key: row.channel.id, divider: null, row });
  if (sorting.by !== 'order') {
    const key = KEYS[sorting.by];
    const turned = sorting.down ? -1 : 1;
    const compared = (a: string | number, b: string | number) =>
      typeof a === 'string' ? words.compare(a, String(b)) : a === b ? 0 : a < Number(b) ? -1 : 1;
    return shown.toSorted((a, b) => turned * compared(key(a), key(b))).map(itemOf);
  }
  const above = dividersAbove(
    session,
    shown.map(({ channel }) => channel.id)
  );
  const captions = (id: string) =>
    (above.get(id) ?? []).map((divider): RosterItem => ({ key: `divider ${divider.id}`, divider, row: null }));
  const items = [...shown.flatMap((row) => [...captions(row.channel.id), itemOf(row)]), ...captions(END)];
  return sorting.down ? items.reverse() : items;
}
