// Commands for what a row shows: fader, pan, mute, solo, solo-safe.
import * as yup from 'yup';
import { ok } from '../result.ts';
import { clampDb, clampPan } from '../units.ts';
import { update } from '../session/changes.ts';
import { channelsOf, counted, dbText } from '../session/select.ts';
import { define, id, ids, level } from './define.ts';

const idsIn = (list: readonly { id: string }[]) => list.map((entry) => entry.id);

const levelOf = (field: 'faderDb' | 'trimDb', noun: string) =>
  define({
    schema: yup.object({
      levels: yup
        .array()
        .of(yup.object({ id: id().required(), level: level().required() }))
        .min(1)
        .required()
    }),
    label: (session, { levels }) =>
      levels.length === 1
        ? `${noun} of ${counted(session, idsIn(levels))} to ${dbText(clampDb(levels[0].level))} dB`
        : `${noun}s of ${counted(session, idsIn(levels))}`,
    plan: (session, { levels }) => {
      const found = channelsOf(session, idsIn(levels));
      if (!found.ok) return found;
      return ok(levels.flatMap(({ id, level }) => update(session, 'channel', id, { [field]: clampDb(level) })));
    }
  });

/** Faders, each to its own level; clamped to −∞ … +12 dB. */
export const fadersSet = levelOf('faderDb', 'Fader');
/** Trims of inputs, before the inserts, each to its own level. */
export const trimsSet = levelOf('trimDb', 'Trim');

/** Pans, each to its own position; clamped to −100 … 100. */
export const pansSet = define({
  schema: yup.object({
    pans: yup
      .array()
      .of(yup.object({ id: id().required(), pan: yup.number().required() }))
      .min(1)
      .required()
  }),
  label: (session, { pans }) => `Pan of ${counted(session, idsIn(pans))}`,
  plan: (session, { pans }) => {
    const found = channelsOf(session, idsIn(pans));
    return found.ok ? ok(pans.flatMap(({ id, pan }) => update(session, 'channel', id, { pan: clampPan(pan) }))) : found;
  }
});

const toggle = (field: 'mute' | 'solo' | 'soloSafe' | 'polarity', on: string, off: string) =>
  define({
    schema: yup.object({ ids: ids(), on: yup.boolean().required() }),
    label: (session, args) => `${args.on ? on : off} ${counted(session, args.ids)}`,
    plan: (session, args) => {
      const found = channelsOf(session, args.ids);
      return found.ok ? ok(args.ids.flatMap((id) => update(session, 'channel', id, { [field]: args.on }))) : found;
    }
  });

export const mutesSet = toggle('mute', 'Mute', 'Unmute');
export const solosSet = toggle('solo', 'Solo', 'Unsolo');
export const safesSet = toggle('soloSafe', 'Solo-safe on:', 'Solo-safe off:');
export const polaritiesSet = toggle('polarity', 'Turn polarity of', 'Restore polarity of');
