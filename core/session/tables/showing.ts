// Saved sets of what is shown, recalled by their number: rows chosen one by one, or whatever a filter finds.
import * as is from '../column.ts';
import { FILTER_FIELDS } from '../roles.ts';

/** What a filter of rows asks for; '' asks nothing. `family` is a colour as text. */
export type RowFilter = Readonly<Record<(typeof FILTER_FIELDS)[number], string>>;

export const showing = is.table(
  {
    id: is.id(),
    number: is.whole(1, 9),
    name: is.text(120),
    ids: is.orNull(is.json<readonly string[]>({ type: 'array', items: is.schemas.id }), {
      reference: { to: 'channel', removed: 'leaves' }
    }),
    filter: is.orNull(
      is.json<RowFilter>({
        type: 'object',
        properties: Object.fromEntries(FILTER_FIELDS.map((name) => [name, is.schemas.plain(120)])),
        required: FILTER_FIELDS,
        additionalProperties: false
      })
    )
  },
  { since: 3, always: ['rows'] }
);
export type Showing = is.RowOf<typeof showing>;
