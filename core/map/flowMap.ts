// The Map: the signal flow from left to right, laid out for a window. Tracks stand in one column of names, what they flow into in columns
// to the right of it, each bus beside its members, each return where it flows in. Sends run between the blocks and in gutters before the
// columns, where no name is; rivers stay in rows of their own until the last stretch before their bus.
import type { Session } from '../session/entities.ts';
import { settled, type Geometry } from './geometry.ts';
import { estimatedLevels } from './levels.ts';
import { isBasin, isSource, modelOf, type Model, type Station, type Strand, type Way } from './model.ts';
import { fitting } from './text.ts';
import { directSend, keyWay, river, strandWay } from './ways.ts';

export type MapNode = Station & {
  /** Where its river begins vertically, and the left edge of its box; the right edge of the name of a track. */
  readonly x: number;
  readonly y: number;
  /** Size of its box; a track has none and is as wide as its name. */
  readonly w: number;
  readonly h: number;
  /** The name as far as there is room for it. */
  readonly label: string;
};
export type MapEdge = Way & {
  /** An SVG path. */
  readonly d: string;
  /** Where a river ends. */
  readonly mouth?: readonly [x: number, y: number];
};
export type MapStrand = Omit<Strand, 'ways'> & {
  readonly d: string;
  /** Keys of the sends in it. */
  readonly sends: readonly string[];
  /** Where the senders' lines meet it. */
  readonly dots: readonly (readonly [x: number, y: number])[];
};
export type FlowMap = {
  readonly nodes: readonly MapNode[];
  readonly edges: readonly MapEdge[];
  readonly strands: readonly MapStrand[];
  /** Branches that are folded: those asked for, or those that did not fit. */
  readonly folded: readonly string[];
  readonly width: number;
  readonly height: number;
};

export type MapOptions = {
  /** Only these; null is everything. Hidden channels are left out in any case. */
  readonly only: ReadonlySet<string> | null;
  /** Branches to fold; null folds families, the largest first, until the rest fits. */
  readonly folded: ReadonlySet<string> | null;
  /** The window, pixels. */
  readonly width?: number;
  readonly height?: number;
  /** The smallest scale at which names can be read: what does not fit at 1 may be laid out for that, before anything is folded. */
  readonly readable?: number;
};

/** Type sizes, pixels: names never smaller than 11 at the scale at which the Map opens. */
export const NAME = 12;
const ROOM = { source: 170, box: 132 };

/**
 * Lays a session out; `order` is its channels in topological order.
 * @example flowMap(session, topological(session), { only: null, folded: null, width: 1280, height: 640 })
 */
export function flowMap(
  session: Session,
  order: readonly string[],
  { only, folded, width = 1240, height = 640, readable = 1 }: MapOptions
): FlowMap {
  const levels = estimatedLevels(session, order);
  /** The Map with these folded; and whether it fits. */
  const laid = (ids: ReadonlySet<string>) => {
    const model = modelOf(session, levels, { only, folded: ids });
    const first = settled(model, width, height);
    if (first.height <= height) return { model, geometry: first, ids, fits: true };
    const geometry = settled(model, width / readable, height / readable);
    return { model, geometry, ids, fits: geometry.height <= height / readable };
  };
  let found = laid(folded ?? new Set());
  if (folded === null && !found.fits) {
    // As few as will do, the largest first: the fewest are found by halving.
    const families = familiesOf(found.model);
    let [few, many] = [0, families.length];
    while (few < many) {
      const middle = (few + many) >> 1;
      const tried = laid(new Set(families.slice(0, middle)));
      if (tried.fits) many = middle;
      else few = middle + 1;
    }
    found = laid(new Set(families.slice(0, few)));
  }
  return drawn(found.model, found.geometry, [...found.ids]);
}

/** Buses into which tracks flow that are shown, if folding them would hide more than one, the largest first; the mix is no family. */
function familiesOf({ stations, members }: Model): string[] {
  const families = [...stations.values()].flatMap(({ id, foldable }) => {
    const inside = members.get(id) ?? [];
    return foldable && inside.length > 1 && inside.some((each) => isSource(stations.get(each)!)) ? [{ id, size: inside.length }] : [];
  });
  return families.sort((a, b) => b.size - a.size).map(({ id }) => id);
}

function drawn(model: Model, geometry: Geometry, folded: readonly string[]): FlowMap {
  const nodes = [...model.stations.values()].flatMap((station): MapNode[] => {
    const place = geometry.places.get(station.id);
    if (!place) return [];
    const { kind, name } = station;
    const room = isSource(station) ? ROOM.source : kind === 'output' ? Infinity : place.w - 16 - (station.foldable ? 26 : 0);
    return [{ ...station, ...place, label: fitting(name, NAME, room, !isSource(station) && !isBasin(station)) }];
  });
  const sends = model.ways.filter(({ via }) => via === 'send');
  return {
    nodes,
    edges: [
      ...model.ways.flatMap((way) => (way.via === 'output' ? [{ ...way, ...river(geometry, way) }] : [])),
      ...sends.map((way) => ({ ...way, d: directSend(geometry, way) })),
      ...model.ways.flatMap((way) => (way.via === 'key' ? [{ ...way, d: keyWay(geometry, way) }] : []))
    ],
    strands: model.strands.map(({ ways, ...strand }) => ({
      ...strand,
      ...strandWay(geometry, strand, ways),
      sends: ways.map(({ key }) => key)
    })),
    folded,
    width: geometry.width,
    height: geometry.height
  };
}
