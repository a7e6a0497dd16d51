// The level rail's scale: where a level stands on it, 0 … 1, finer around unity where one works.

const POINTS: readonly (readonly [db: number, at: number])[] = [
  [-72, 0],
  [-48, 0.1],
  [-24, 0.34],
  [-12, 0.58],
  [0, 0.84],
  [12, 1]
];

/** Levels written above the rail. */
export const MARKS = [-48, -24, -12, -6, 0, 12] as const;

export function railAt(db: number): number {
  if (db <= POINTS[0][0]) return 0;
  for (let i = 1; i < POINTS.length; i++) {
    const [low, from] = POINTS[i - 1];
    const [high, to] = POINTS[i];
    if (db <= high) return from + ((db - low) / (high - low)) * (to - from);
  }
  return 1;
}

/** The level at a place on the rail; its left end is −∞. */
export function dbAt(place: number): number {
  if (place <= 0.004) return -Infinity;
  for (let i = 1; i < POINTS.length; i++) {
    const [low, from] = POINTS[i - 1];
    const [high, to] = POINTS[i];
    if (place <= to) return low + ((place - from) / (to - from)) * (high - low);
  }
  return 12;
}
