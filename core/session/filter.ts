// Which channels a filter of rows finds.
import type { Channel, RowFilter, Session } from './entities.ts';
import { idsBy, rowsBy } from './lookup.ts';
import { recordedLevel } from './recorded.ts';
import { roleWord } from './roles.ts';

export const EVERYTHING: RowFilter = { text: '', kind: '', role: '', family: '', to: '', width: '' };

/** The word that finds rows with lanes. */
export const AUTOMATED = 'automated';
/** "peak>-6", "length<30": a figure of the row, compared. */
const FIGURE = /^(peak|loudness|length|rate|bits|channels)(<=|>=|<|>|=)([-−]?\d+(?:\.\d+)?)$/;
type Figure = 'peak' | 'loudness' | 'length' | 'rate' | 'bits' | 'channels';

/** Figures that can be asked for: dBFS and LUFS as recorded, seconds, kHz, bits, audio channels. */
function figureOf(session: Session, channel: Channel, figure: Figure): number | null {
  if (figure === 'channels') return channel.width;
  const own = rowsBy(session, 'clip', 'channelId', channel.id);
  const recordings = own.flatMap(({ mediaId }) => session.media.get(mediaId) ?? []);
  if (recordings.length === 0) return null;
  const { peakDb, lufs } = recordedLevel(session, channel.id);
  const [{ rate, encoding }] = recordings;
  if (figure === 'peak') return peakDb;
  if (figure === 'loudness') return lufs;
  if (figure === 'length') return Math.max(...own.map(({ length }) => length)) / rate;
  return figure === 'rate' ? rate / 1000 : Number(encoding.slice(1));
}

const holds = (value: number | null, sign: string, wanted: number) =>
  value !== null &&
  (sign === '<'
    ? value < wanted
    : sign === '>'
      ? value > wanted
      : sign === '<='
        ? value <= wanted
        : sign === '>='
          ? value >= wanted
          : value === wanted);

/**
 * Every word of the text is sought in the channel's name, its recordings' names, its role and where it goes, or is a figure
 * compared, or “automated”, which finds what has lanes; the other fields must be equal.
 */
export function matchesFilter(session: Session, channel: Channel, filter: RowFilter): boolean {
  const { text, kind, role, family, to, width } = filter;
  if (kind && channel.kind !== kind) return false;
  if (role && (role === 'none' ? channel.role !== '' : channel.role !== role)) return false;
  if (family && String(Math.round(channel.colour) % 12) !== family) return false;
  if (to && (to === 'nowhere' ? channel.outputId !== null || channel.outputPair !== null : channel.outputId !== to)) return false;
  if (width && String(channel.width) !== width) return false;
  const sought = text.toLocaleLowerCase().split(/\s+/).filter(Boolean);
  if (sought.length === 0) return true;
  const target = channel.outputId === null ? '' : (session.channel.get(channel.outputId)?.name ?? '');
  const words = [channel.name, roleWord(channel.role), target, ...filesOf(session, channel.id)].join('\n').toLocaleLowerCase();
  return sought.every((word) => {
    if (word === AUTOMATED) return idsBy(session, 'lane', 'channelId', channel.id).length > 0;
    const asked = FIGURE.exec(word);
    return asked
      ? holds(figureOf(session, channel, asked[1] as Figure), asked[2], Number(asked[3].replace('−', '-')))
      : words.includes(word);
  });
}

/** Names of the recordings that a track plays, as they arrived. */
export const filesOf = (session: Session, channelId: string): string[] => [
  ...new Set(rowsBy(session, 'clip', 'channelId', channelId).flatMap(({ mediaId }) => session.media.get(mediaId)?.name ?? []))
];
