// The Map's lines as SVG paths: rivers, strands of sends along their lanes, single sends, keys.
import { LANE, type Geometry } from './geometry.ts';
import { isSource, type Strand, type Way } from './model.ts';

type Point = readonly [x: number, y: number];

const n = (value: number) => Math.round(value * 10) / 10;
/** Where a track's name ends and its river begins. */
const START = 7;
/** The radius of a lane's corners. */
const ROUND = 5;

/** Where a river leaves a station. */
const source = ({ stations, places }: Geometry, id: string): Point => {
  const { x, y, w } = places.get(id)!;
  return isSource(stations.get(id)!) ? [x + START, y] : [x + w, y];
};

/** Straight along its row, then down or up in the last stretch before its bus. */
export function river(geometry: Geometry, { from, to }: Way): { d: string; mouth: Point } {
  const [x1, y1] = source(geometry, from);
  const end = geometry.places.get(to)!;
  const y2 = end.y + geometry.mouthOf(from, to);
  const x2 = end.x;
  const before = geometry.columnOf(to) + 1;
  // The stretch begins behind the boxes of the column before, where there is one between.
  const column = geometry.columnOf(from);
  const bend = column > before ? Math.max(x1, behind(geometry, before)) : x1;
  const half = Math.max(12, (x2 - bend) / 2);
  const start = `M${n(x1)} ${n(y1)}${bend > x1 ? `H${n(bend)}` : ''}`;
  return { d: `${start}C${n(bend + half)} ${n(y1)} ${n(x2 - half)} ${n(y2)} ${n(x2)} ${n(y2)}`, mouth: [x2, y2] };
}

/** The right edge of the widest box in a column. */
const behind = ({ places, columnOf, leftOf }: Geometry, column: number): number => {
  let right = leftOf(column);
  for (const [id, { x, w }] of places) if (columnOf(id) === column && x >= leftOf(column)) right = Math.max(right, x + w);
  return right;
};

/** The lane before a column in which sends go up and down to one of its stations. */
const laneBefore = (geometry: Geometry, to: string): number =>
  geometry.leftOf(geometry.columnOf(to)) - 8 - LANE * Math.min(12, geometry.laneOf(to));

/**
 * A strand: down along its senders, out beneath their family, from block to block to the gutter before the return, and in from the left.
 * The dots are where its senders meet it.
 */
export function strandWay(geometry: Geometry, { of, to }: Pick<Strand, 'of' | 'to'>, ways: readonly Way[]): { d: string; dots: Point[] } {
  const starts = ways.map(({ from }) => ({ from, at: source(geometry, from) })).sort((a, b) => a.at[1] - b.at[1]);
  const target = geometry.places.get(to)!;
  const first = starts[0];
  const fromTracks = isSource(geometry.stations.get(first.from)!);
  const lane = LANE * Math.min(8, geometry.laneOf(to));
  const own = geometry.places.get(first.from)!;
  const spine = fromTracks ? first.at[0] + 5 + lane : own.x + own.w / 2 + Math.min(own.w / 2 - 8, lane);
  const top: Point = fromTracks ? [spine, first.at[1]] : [spine, own.y + own.h / 2];
  const dots: Point[] = fromTracks ? starts.map(({ at }) => [spine, at[1]]) : [];
  const bottom = starts.at(-1)!.at[1];
  const end: Point = isSource(geometry.stations.get(to)!) ? [target.x + START, target.y] : [target.x, target.y];
  const beside = fromTracks && geometry.columnOf(to) === geometry.leaves;
  if (beside && target.y > bottom) return { d: rounded([top, [spine, target.y], end]), dots };
  const course = geometry.courseOf({ of, to });
  // Nothing else shows where a key comes from.
  const points: Point[] = ways[0].via === 'key' ? [first.at, top] : [top];
  // Without a block to leave beneath: between the last sender's row and the next.
  let y = bottom + own.h / 2 - (lane % 3) / 2;
  course.forEach(({ block, lane: beneath }, i) => {
    // On to the next block in the gutter before its column.
    const x = i === 0 ? spine : geometry.leftOf(geometry.columnOf(block)) - 8 - LANE * Math.min(8, beneath);
    if (i > 0) points.push([x, y]);
    y = geometry.floorOf(block) + LANE * beneath;
    points.push([x, y]);
  });
  if (!course.length) points.push([spine, y]);
  const gutter = laneBefore(geometry, to);
  points.push([gutter, y], [gutter, target.y], end);
  return { d: rounded(points), dots };
}

/** A line through corners, each rounded; corners that lie on one another or in a row are none. */
function rounded(points: readonly Point[]): string {
  const corners = points.filter(([x, y], i) => i === 0 || Math.abs(x - points[i - 1][0]) + Math.abs(y - points[i - 1][1]) > 0.5);
  let d = `M${n(corners[0][0])} ${n(corners[0][1])}`;
  for (let i = 1; i < corners.length - 1; i++) {
    const [a, b, c] = [corners[i - 1], corners[i], corners[i + 1]];
    const [before, after] = [Math.hypot(b[0] - a[0], b[1] - a[1]), Math.hypot(c[0] - b[0], c[1] - b[1])];
    const r = Math.min(ROUND, before / 2, after / 2);
    const at = (p: Point, far: number): Point => [b[0] + ((p[0] - b[0]) * r) / far, b[1] + ((p[1] - b[1]) * r) / far];
    const [p, q] = [at(a, before), at(c, after)];
    d += `L${n(p[0])} ${n(p[1])}Q${n(b[0])} ${n(b[1])} ${n(q[0])} ${n(q[1])}`;
  }
  const last = corners.at(-1)!;
  return `${d}L${n(last[0])} ${n(last[1])}`;
}

/** One send by itself, straight to its return: drawn where one looks closely. */
export function directSend(geometry: Geometry, { from, to }: Way): string {
  const [x1, y1] = source(geometry, from);
  const end = geometry.places.get(to)!;
  const far = Math.max(40, Math.abs(end.x - x1) * 0.4);
  return `M${n(x1)} ${n(y1)}C${n(x1 + far)} ${n(y1)} ${n(end.x - far)} ${n(end.y)} ${n(end.x)} ${n(end.y)}`;
}

/** A key: out of its station to the one whose processor listens, along the lanes that sends take. */
export const keyWay = (geometry: Geometry, way: Way): string => strandWay(geometry, { of: way.from, to: way.to }, [way]).d;
