// Dividers: a line with a caption between rows, standing before the first channel of a higher position.
import * as is from '../column.ts';

export const divider = is.table({ id: is.id(), caption: is.text(120), position: is.finite() }, { since: 3, always: ['tree', 'rows'] });
export type Divider = is.RowOf<typeof divider>;
