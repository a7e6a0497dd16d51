// Commands for the session as a whole.
import * as yup from 'yup';
import { ok, refuse } from '../result.ts';
import { update } from '../session/changes.ts';
import { columnsOf } from '../session/tables.ts';
import { define } from './define.ts';
import { field } from './field.ts';

/**
 * What holds for the whole session: tempo, pan law, what mute and solo close, edge fades, the interface.
 * @example { "do": "settings.set", "bpm": 104, "panLaw": -3 }
 */
export const settingsSet = define({
  name: 'settings.set',
  schema: yup.object({
    name: field('settings', 'name'),
    bpm: field('settings', 'bpm'),
    beatsPerBar: field('settings', 'beatsPerBar'),
    panLaw: field('settings', 'panLaw'),
    muteClosesPre: field('settings', 'muteClosesPre'),
    muteClosesCue: field('settings', 'muteClosesCue'),
    soloDimDb: field('settings', 'soloDimDb'),
    edgeMs: field('settings', 'edgeMs'),
    movesWritten: field('settings', 'movesWritten'),
    laneGrab: field('settings', 'laneGrab'),
    laneGlideMs: field('settings', 'laneGlideMs'),
    interfaceName: field('settings', 'interfaceName'),
    interfaceOutputs: field('settings', 'interfaceOutputs')
  }),
  label: (_, values) =>
    values.name
      ? `Rename session to ${values.name}`
      : `Set ${Object.keys(values)
          .map((name) => columnsOf('settings')[name].words)
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
