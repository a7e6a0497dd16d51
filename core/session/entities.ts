// The rows of a session and the maps that hold them: plain data, the same shape in memory, on the wire and in SQL. Each table is
// described in `tables/`.
import type { Session } from './tables.ts';
import type { Settings } from './tables/settings.ts';

export type { Session, TableName, Tables } from './tables.ts';
export type { Channel, ChannelKind, Pattern, PulseShape } from './tables/channel.ts';
export type { Clip, Side } from './tables/clip.ts';
export type { CueToken } from './tables/cueToken.ts';
export type { Divider } from './tables/divider.ts';
export type { Insert } from './tables/insert.ts';
export type { Lane, LaneOf } from './tables/lane.ts';
export type { Attribute, Link } from './tables/link.ts';
export type { LinkMember } from './tables/linkMember.ts';
export type { Marker } from './tables/marker.ts';
export type { Media, Origin } from './tables/media.ts';
export type { Point, Shape } from './tables/point.ts';
export type { Range } from './tables/range.ts';
export type { Send, Tap } from './tables/send.ts';
export type { Curve, Settings } from './tables/settings.ts';
export type { RowFilter, Showing } from './tables/showing.ts';
export type { VcaMember } from './tables/vcaMember.ts';
export type { SetApart, Version, Written } from './tables/version.ts';
export { rowId } from './tables.ts';

/** The name of a registered processor. */
export type InsertType = string;
export type PanLaw = Settings['panLaw'];

/** The one settings row. */
export const settingsOf = (session: Session): Settings => session.settings.get('settings')!;

/** Key of a send in its map. A line feed cannot occur in an id. */
export const sendId = (sourceId: string, targetId: string): string => `${sourceId}\n${targetId}`;
