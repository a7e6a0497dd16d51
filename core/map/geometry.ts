// Where the Map's stations stand: columns by how far they are from the outputs, rows by what flows into what, as far apart as the window
// has room for; and the lanes in which sends run between them.
import { isBasin, isSource, type Model, type Station } from './model.ts';
import { textWidth } from './text.ts';

export type Place = { readonly x: number; readonly y: number; readonly w: number; readonly h: number };
export type Geometry = {
  readonly places: ReadonlyMap<string, Place>;
  readonly stations: Model['stations'];
  /** Columns from the right; 0 is the outputs. */
  readonly columnOf: (id: string) => number;
  /** Beneath a station and all that flows into it: where its sends leave. */
  readonly floorOf: (id: string) => number;
  /** The lane of what goes to a station, before its column. */
  readonly laneOf: (to: string) => number;
  /** The blocks beneath which a line leaves on its way, and its lane beneath each; none where it leaves beneath its last sender. */
  readonly courseOf: (line: Line) => readonly { readonly block: string; readonly lane: number }[];
  /** Left edge of a column's boxes; of the leaves' the right edge of their names. */
  readonly leftOf: (column: number) => number;
  /** Where the rivers of a station end, by the station they come from: from the middle of its box, pixels. */
  readonly mouthOf: (from: string, to: string) => number;
  readonly leaves: number;
  /** Rivers of tracks are no wider than their rows. */
  readonly widest: number;
  readonly width: number;
  readonly height: number;
};

const PAD = { left: 14, right: 14, top: 10, bottom: 8 };
const ROW = { least: 14, most: 25 };
/** Height of boxes at least, and of a row with one. */
const BOX = 22;
const NAME_SIZE = 12;
const ROOM = 170;
/** Between the names and the first river's bend: the strands of their sends. */
const SPINES = 44;
export const LANE = 3.5;
/** A stretch of river between two columns at least, besides the lanes in it. */
const SPAN = 46;
/** To the outputs: as much as a level takes. */
const OUT = 84;

/** A strand of sends, or a key. */
export type Line = { readonly of: string; readonly to: string };

/** Whether a station flows into another, however far on. */
const flowsInto = (stations: Model['stations'], id: string, into: string): boolean => {
  for (let at = stations.get(id)?.into ?? null; at !== null; at = stations.get(at)?.into ?? null) if (at === into) return true;
  return false;
};

/**
 * The blocks that a line leaves beneath: its own, then those around it, as far as they stand before the column that it goes to. To a return
 * in its own block, and out of no block, it leaves right beneath its last sender.
 */
function blocksOf(stations: Model['stations'], columnOf: (id: string) => number, { of, to }: Line): string[] {
  if (!stations.has(of) || flowsInto(stations, to, of)) return [];
  const blocks = [of];
  for (let column = columnOf(of) - 1, at = stations.get(of)!.into; column > columnOf(to) && at !== null; column--) {
    blocks.push(at);
    at = stations.get(at)?.into ?? null;
  }
  return blocks;
}

export function settled({ stations, members, strands, ways }: Model, width: number, height: number): Geometry {
  const list = [...stations.values()];
  // Columns count back from the outputs, so that tiers line up where they end.
  const columns = new Map<string, number>();
  const deepest = (id: string): number => {
    const known = columns.get(id);
    if (known !== undefined) return known;
    const station = stations.get(id)!;
    const column = station.kind === 'output' ? 0 : station.into === null ? 1 : deepest(station.into) + 1;
    columns.set(id, column);
    return column;
  };
  for (const { id } of list) deepest(id);
  const boxes = list.filter((station) => !isSource(station));
  const leaves = Math.max(
    2,
    ...boxes.filter((box) => !isBasin(box)).map(({ id }) => columns.get(id)! + 1),
    ...boxes.map(({ id }) => columns.get(id)!)
  );
  const columnOf = (id: string) => (isSource(stations.get(id)!) ? leaves : columns.get(id)!);

  const boxWidth = (station: Station) =>
    Math.min(158, Math.max(54, textWidth(station.name, NAME_SIZE, !isBasin(station)) + 18 + (station.foldable ? 26 : 0)));
  const widths = Array.from({ length: leaves + 1 }, (_, column) =>
    Math.max(0, ...boxes.filter(({ id, kind }) => columnOf(id) === column && kind !== 'output').map(boxWidth))
  );
  const outWidth = Math.max(40, ...list.filter(({ kind }) => kind === 'output').map(({ name }) => textWidth(name, NAME_SIZE, true)));
  const names = Math.max(
    40,
    ...list.filter(isSource).map(({ name, kind }) => Math.min(ROOM, textWidth(name, NAME_SIZE) + (kind === 'key' ? 12 : 0)))
  );
  const leafEnd = PAD.left + names;

  // Lanes before each column, one for each station there that something is sent to; and beneath each block, one for each that leaves there.
  const lines: Line[] = [...strands, ...ways.flatMap(({ via, from, to }) => (via === 'key' ? [{ of: from, to }] : []))];
  const targets = [...new Set(lines.map(({ to }) => to))];
  const beneath = new Map<string, string[]>();
  const courses = new Map<string, { block: string; lane: number }[]>();
  for (const line of lines) {
    const course = blocksOf(stations, columnOf, line).map((block) => {
      const there = beneath.get(block) ?? [];
      if (!there.includes(line.to)) beneath.set(block, [...there, line.to]);
      return { block, lane: beneath.get(block)!.indexOf(line.to) };
    });
    courses.set(`${line.of} ${line.to}`, course);
  }
  const lanes = new Map<string, number>();
  const inColumn = new Map<number, number>();
  for (const to of targets) {
    const column = columnOf(to);
    lanes.set(to, inColumn.get(column) ?? 0);
    inColumn.set(column, (inColumn.get(column) ?? 0) + 1);
  }
  const gutter = (column: number) => Math.min(60, 10 + LANE * (inColumn.get(column) ?? 0));
  const fixed = widths.slice(1).reduce((sum, each) => sum + each, 0) + leafEnd + SPINES + outWidth + PAD.right;
  const spans = Array.from({ length: leaves - 1 }, (_, i) => Math.max(OUT, SPAN + gutter(i + 1)));
  // What the window has left over is shared among the stretches; where one river runs straight on, as between stages, it has a quarter.
  const busy = Array.from({ length: leaves }, (_, column) => (list.filter(({ id }) => columnOf(id) === column + 1).length > 1 ? 1 : 0.25));
  const needed = fixed + spans.reduce((sum, each) => sum + each, 0) + OUT;
  const more = Math.max(0, width - needed) / busy.reduce((sum, each) => sum + each, 0);
  const lefts: number[] = [];
  let x = leafEnd + SPINES + widths[leaves];
  lefts[leaves] = leafEnd + SPINES;
  for (let column = leaves - 1; column >= 1; column--) {
    x += spans[column - 1] + more * busy[column];
    lefts[column] = x;
    x += widths[column];
  }
  lefts[0] = x + OUT + more * busy[0];

  // Rows: a station stands in the middle of what flows into it.
  const gap = (id: string) => 5 + LANE * (beneath.get(id)?.length ?? 0);
  const mouths = new Map<string, number>();
  const boxHeight = (id: string) => {
    const total = (members.get(id) ?? []).reduce((sum, each) => sum + Math.min(12, stations.get(each)!.width), 0);
    return Math.min(44, Math.max(BOX, total * 0.9 + 4));
  };
  const laidOut = (row: number) => {
    const places = new Map<string, Place>();
    const floors = new Map<string, number>();
    let y = PAD.top;
    const place = (id: string): void => {
      const station = stations.get(id)!;
      const inside = members.get(id) ?? [];
      const h = isSource(station) ? row : boxHeight(id);
      const own = {
        x: columnOf(id) === leaves && isSource(station) ? leafEnd : lefts[columnOf(id)],
        w: isSource(station) ? names : boxWidth(station),
        h
      };
      if (inside.length === 0) {
        const tall = isSource(station) ? row : h + 4;
        places.set(id, { ...own, y: y + tall / 2 });
        y += tall;
        floors.set(id, y - (isSource(station) ? 0 : 2));
        if (!isSource(station)) y += gap(id) - 5;
        return;
      }
      const top = y;
      inside.forEach(place);
      y = Math.max(y, top + h + 4);
      const heard = inside.filter((each) => !isBasin(stations.get(each)!));
      const ys = (heard.length ? heard : inside).map((each) => places.get(each)!.y);
      const middle = (Math.min(...ys) + Math.max(...ys)) / 2;
      places.set(id, { ...own, y: Math.max(top + h / 2 + 2, middle) });
      floors.set(id, y + 2);
      // One stage after another takes no more room than the first.
      y += inside.length > 1 || beneath.has(id) ? gap(id) : 0;
    };
    const ends = list.filter(({ kind }) => kind === 'output').map(({ id }) => id);
    for (const end of ends) {
      const top = y;
      const inside = members.get(end) ?? [];
      inside.forEach(place);
      // An output stands where its first river, the mix's, arrives.
      const at = inside.length ? places.get(inside[0])!.y : top;
      places.set(end, { x: lefts[0], y: at, w: outWidth, h: 20 });
      floors.set(end, y);
      y += 6;
    }
    for (const id of members.get(null) ?? []) place(id);
    return { places, floors, height: y + PAD.bottom };
  };
  const least = laidOut(ROW.least);
  const rows = list.filter(isSource).length;
  const row = rows ? Math.max(ROW.least, Math.min(ROW.most, ROW.least + Math.floor(((height - least.height) / rows) * 4) / 4)) : ROW.least;
  const { places, floors, height: tall } = row === ROW.least ? least : laidOut(row);

  // Rivers end side by side, in the order in which they come.
  const widest = row * 0.72;
  for (const [to, inside] of members) {
    const box = to === null ? undefined : places.get(to);
    if (!box) continue;
    const order = [...inside].sort((a, b) => places.get(a)!.y - places.get(b)!.y);
    const wide = order.map((id) => riverOf(stations.get(id)!, widest));
    const total = wide.reduce((sum, each) => sum + each, 0);
    const scale = Math.min(1, (box.h - 4) / total);
    let at = (-total * scale) / 2;
    order.forEach((id, i) => {
      mouths.set(`${id} ${to}`, at + (wide[i] * scale) / 2);
      at += wide[i] * scale;
    });
  }
  return {
    ...{ places, stations, columnOf, leaves, widest, height: tall },
    floorOf: (id) => floors.get(id) ?? places.get(id)?.y ?? PAD.top,
    laneOf: (to) => lanes.get(to) ?? 0,
    courseOf: ({ of, to }) => courses.get(`${of} ${to}`) ?? [],
    leftOf: (column) => lefts[column],
    mouthOf: (from, to) => mouths.get(`${from} ${to}`) ?? 0,
    width: Math.max(width, lefts[0] + outWidth + PAD.right)
  };
}

/** The width at which a station's river is drawn. */
export const riverOf = (station: Station, widest: number): number => (isSource(station) ? Math.min(widest, station.width) : station.width);
