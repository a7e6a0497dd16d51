// Points of lanes: a value at a frame, and how the lane goes on from there.
import * as is from '../column.ts';

/** `hold` stays until the next point, `linear` and `eased` lead to it in the value's own scale. */
export const SHAPES = ['hold', 'linear', 'eased'] as const;
export type Shape = (typeof SHAPES)[number];

export const point = is.table(
  {
    laneId: is.id({ sound: 'lanes', reference: { to: 'lane', removed: 'goes', copied: 'with' } }),
    at: is.frames({ unit: 'frames', sound: 'lanes' }),
    /** In the unit of what the lane is of; of a switch 0 or 1. */
    value: is.measured({ sound: 'lanes' }),
    shape: is.oneOf(SHAPES, { default: 'linear', sound: 'lanes' })
  },
  { key: ['laneId', 'at'], since: 8, notInTemplates: true, always: ['lanes'], leaf: true }
);
export type Point = is.RowOf<typeof point>;
