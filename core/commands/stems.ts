// Stems: which buses are printed by themselves and make up the mix.
import * as yup from 'yup';
import { chainOf } from '../routing/chain.ts';
import { ok, refuse } from '../result.ts';
import { update } from '../session/changes.ts';
import { channelsOf, counted } from '../session/select.ts';
import { define, ids } from './define.ts';

/**
 * Makes buses stems, or no longer. `common` says of a stem that it is wanted across everything: a track may be in it and in its own.
 * @example { "do": "stems.set", "ids": ["bus"], "on": true, "common": true }
 */
export const stemsSet = define({
  name: 'stems.set',
  schema: yup.object({ ids: ids(), on: yup.boolean().required(), common: yup.boolean() }),
  label: (session, { ids, on, common }) => {
    const who = counted(session, ids, 'bus').replace(/buss$/, 'buses');
    const one = ids.length === 1;
    if (!on) return `${who} no longer ${one ? 'a stem' : 'stems'}`;
    return common ? `${who}: common ${one ? 'stem' : 'stems'}` : `${who}: ${one ? 'a stem' : 'stems'}`;
  },
  plan: (session, { ids, on, common }) => {
    const found = channelsOf(session, ids);
    if (!found.ok) return found;
    const chain = chainOf(session);
    const wrong = on && found.value.find(({ id, kind }) => kind !== 'bus' || chain.has(id));
    if (wrong)
      return chain.has(wrong.id)
        ? refuse('mix-bus', `${wrong.name} is part of the mix chain: stems end where it begins. Choose buses that go into it.`)
        : refuse('not-a-bus', `${wrong.name} is no bus. Put it into a bus, and make that a stem.`);
    return ok(
      found.value.flatMap((channel) => update(session, 'channel', channel.id, { stem: on, common: on && (common ?? channel.common) }))
    );
  }
});
