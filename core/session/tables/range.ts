// Ranges: stretches of the timeline with names, to be looped, measured or printed.
import * as is from '../column.ts';

export const range = is.table(
  {
    id: is.id(),
    name: is.text(120),
    /** A family hue, 0 … 12. */
    colour: is.number({ type: 'number', minimum: 0, exclusiveMaximum: 12 }, { default: 0 }),
    /** Where it begins on the timeline, and how long it is. */
    start: is.frames({ unit: 'frames' }),
    length: is.number({ ...is.schemas.frames, minimum: 1 }, { unit: 'frames' })
  },
  { since: 7, notInTemplates: true, always: ['places'] }
);
export type Range = is.RowOf<typeof range>;
