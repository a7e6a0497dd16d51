// Commands for the session as a whole.
import * as yup from 'yup';
import { ok } from '../result.ts';
import { update } from '../session/changes.ts';
import { define, name } from './define.ts';

export const settingsSet = define({
  schema: yup.object({
    name: name(),
    bpm: yup.number().min(20).max(400),
    beatsPerBar: yup.number().integer().min(1).max(16),
    panLaw: yup.number().oneOf([-3, -4.5, -6, 0] as const),
    muteClosesPre: yup.boolean()
  }),
  label: (_, values) => (values.name ? `Rename session to ${values.name}` : `Set ${Object.keys(values).join(', ')}`),
  plan: (session, values) => ok(update(session, 'settings', 'settings', { ...values }))
});
