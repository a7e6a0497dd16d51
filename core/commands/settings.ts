// Commands for the session as a whole.
import * as yup from 'yup';
import { ok, refuse } from '../result.ts';
import { update } from '../session/changes.ts';
import { define, name, trimmed } from './define.ts';

/** What each is called in the undo list. */
const WORDS = {
  name: 'name',
  bpm: 'tempo',
  beatsPerBar: 'beats per bar',
  panLaw: 'pan law',
  muteClosesPre: 'what mute closes of sends to returns',
  muteClosesCue: 'what mute closes of sends to cues',
  soloDimDb: 'what solo does to the rest',
  interfaceName: 'name of the interface',
  interfaceOutputs: 'outputs of the interface'
} as const;

export const settingsSet = define({
  schema: yup.object({
    name: name(),
    bpm: yup.number().min(20).max(400),
    beatsPerBar: yup.number().integer().min(1).max(16),
    panLaw: yup.number().oneOf([-3, -4.5, -6, 0] as const),
    muteClosesPre: yup.boolean(),
    muteClosesCue: yup.boolean(),
    soloDimDb: yup.number().min(-60).max(0).nullable(),
    interfaceName: trimmed(60).min(1),
    interfaceOutputs: yup
      .number()
      .integer()
      .min(2)
      .max(128)
      .test('even', 'outputs come in pairs', (count) => count === undefined || count % 2 === 0)
  }),
  label: (_, values) =>
    values.name
      ? `Rename session to ${values.name}`
      : `Set ${Object.keys(values)
          .map((key) => WORDS[key as keyof typeof WORDS])
          .join(', ')}`,
  plan: (session, values) => {
    const { interfaceOutputs } = values;
    const cut = [...session.channel.values()].find(
      ({ outputPair }) => outputPair !== null && outputPair * 2 + 2 > (interfaceOutputs ?? Infinity)
    );
    if (cut)
      return refuse(
        'in-use',
        `${cut.name} goes to outputs ${cut.outputPair! * 2 + 1}–${cut.outputPair! * 2 + 2}. Route it elsewhere first.`
      );
    return ok(update(session, 'settings', 'settings', { ...values }));
  }
});
