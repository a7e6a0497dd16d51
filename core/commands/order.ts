// Putting channels into an order of their own.
import * as yup from 'yup';
import { ok } from '../result.ts';
import { update } from '../session/changes.ts';
import { channelsOf, counted, inOrder } from '../session/select.ts';
import { define, ids } from './define.ts';

/**
 * The listed channels take, in the order given, the places that they hold together now.
 * @example { "do": "channels.order", "ids": ["b", "a"] }
 */
export const channelsOrder = define({
  name: 'channels.order',
  schema: yup.object({ ids: ids() }),
  label: (session, { ids }) => `Order ${counted(session, ids)}`,
  plan: (session, { ids }) => {
    const found = channelsOf(session, ids);
    if (!found.ok) return found;
    const order = [...new Set(ids)];
    const listed = new Set(order);
    const places = inOrder(session)
      .filter(({ id }) => listed.has(id))
      .map(({ position }) => position);
    return ok(order.flatMap((id, i) => update(session, 'channel', id, { position: places[i] })));
  }
});
