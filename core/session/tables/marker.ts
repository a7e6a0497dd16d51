// Markers: places on the timeline with names.
import * as is from '../column.ts';

export const marker = is.table(
  {
    id: is.id(),
    name: is.text(120),
    /** A family hue, 0 … 12. */
    colour: is.number({ type: 'number', minimum: 0, exclusiveMaximum: 12 }, { default: 0 }),
    /** Where it stands on the timeline. */
    at: is.frames({ unit: 'frames' })
  },
  { since: 7, notInTemplates: true, always: ['places'] }
);
export type Marker = is.RowOf<typeof marker>;
