// Versions of the mix, and the fades at its ends.
import * as yup from 'yup';
import { chainOf } from '../routing/chain.ts';
import { ok, refuse, type Result } from '../result.ts';
import { creation, removal, update } from '../session/changes.ts';
import { POSITION_STEP } from '../session/create.ts';
import type { Session, SetApart, Version, Written } from '../session/entities.ts';
import { CURVES } from '../session/tables/settings.ts';
import { newRow } from '../session/tables.ts';
import { sounds } from '../session/vcas.ts';
import { MOST_FRAMES, TOP_DB } from '../units.ts';
import { define, id, ids, isId, name, newId } from './define.ts';

const FLOOR = -120;
const isLevel = (value: unknown): boolean =>
  value === '-inf' || value === -Infinity || (typeof value === 'number' && value >= FLOOR && value <= TOP_DB);
const written = (value: unknown): Written => (value === '-inf' || value === -Infinity ? '-inf' : (value as number));
const isRecord = (value: unknown): value is Record<string, unknown> => typeof value === 'object' && value !== null && !Array.isArray(value);

/** An object of ids with values that pass a check. */
const byId = <T>(holds: (value: unknown) => boolean, words: string) =>
  yup
    .mixed<Readonly<Record<string, T>>>((value): value is Readonly<Record<string, T>> => isRecord(value))
    .test('by-id', words, (value) => !value || Object.entries(value).every(([key, each]) => isId(key) === null && holds(each)));
const isSetApart = (value: unknown): boolean =>
  isRecord(value) &&
  isId(value.id) === null &&
  (value.by === undefined || isLevel(value.by)) &&
  (value.mute === undefined || typeof value.mute === 'boolean') &&
  Object.keys(value).every((key) => key === 'id' || key === 'by' || key === 'mute');

const fields = {
  stems: byId<Written>(isLevel, `stems have levels from ${FLOOR} to +${TOP_DB} dB, or "-inf"`),
  inserts: byId<boolean>((value) => typeof value === 'boolean', 'inserts are on (true) or off (false)'),
  fader: yup.boolean(),
  fades: yup.boolean(),
  channels: yup
    .mixed<readonly SetApart[]>((value): value is readonly SetApart[] => Array.isArray(value))
    .test(
      'set-apart',
      `channels are set apart as { id, by, mute }, by from ${FLOOR} to +${TOP_DB} dB, or "-inf"`,
      (list) => !list || list.every(isSetApart)
    )
};
type Parts = Partial<Pick<Version, 'stems' | 'inserts' | 'channels'>>;

/** What of a version names nothing that it could, in words. */
function strange(session: Session, { stems, inserts, channels }: Parts): Result<never> | null {
  const nameOf = (channelId: string) => session.channel.get(channelId)?.name;
  for (const each of Object.keys(stems ?? {}))
    if (!session.channel.get(each)?.stem)
      return nameOf(each) === undefined
        ? refuse('not-found', 'One of these stems is no longer in the session.', { id: each })
        : refuse('not-a-bus', `${nameOf(each)} is no stem. Make it one first.`);
  const chain = chainOf(session);
  for (const each of Object.keys(inserts ?? {})) {
    const insert = session.insert.get(each);
    if (!insert) return refuse('not-found', 'One of these inserts is no longer in the session.', { id: each });
    if (!chain.has(insert.channelId))
      return refuse(
        'not-a-member',
        `A version switches inserts of the mix chain; this one is on ${nameOf(insert.channelId) ?? 'a channel'}.`
      );
  }
  const seen = new Set<string>();
  for (const { id: each } of channels ?? []) {
    const channel = session.channel.get(each);
    if (!channel) return refuse('not-found', 'One of these channels is no longer in the session.', { id: each });
    if (seen.has(each)) return refuse('bad-arguments', `${channel.name} is set apart twice. Say it once.`);
    if (!sounds(channel) || channel.kind === 'cue' || channel.kind === 'key' || chain.has(each))
      return refuse('not-a-member', `${channel.name} cannot be set apart: choose tracks, buses or returns beneath the mix bus.`);
    seen.add(each);
  }
  return null;
}

/** As it is kept: what is as in the mix is left out. */
const tidy = ({ stems, inserts, channels }: Parts): Parts => ({
  ...(stems
    ? { stems: Object.fromEntries(Object.entries(stems).flatMap(([key, value]) => (value === 0 ? [] : [[key, written(value)]]))) }
    : {}),
  ...(inserts ? { inserts: { ...inserts } } : {}),
  ...(channels
    ? {
        channels: channels.map(({ id: each, by, mute }) => ({
          id: each,
          ...(by === undefined ? {} : { by: written(by) }),
          ...(mute === undefined ? {} : { mute })
        }))
      }
    : {})
});

/**
 * A version of the mix: `stems` by their ids with levels relative to the mix, "-inf" being out; `inserts` of the mix chain by their
 * ids, false being off; whether the mix fader and the fades count; `channels` set apart by dB, or muted, for which it is rendered by itself.
 * @example { "do": "versions.add", "id": "x", "name": "No limiter", "inserts": { "lim": false } }
 */
export const versionsAdd = define({
  name: 'versions.add',
  schema: yup.object({ id: newId().required(), name: name().required(), ...fields }),
  label: (_, { name }) => `New version ${name}`,
  plan: (session, { id, name, fader, fades, ...parts }) => {
    if (session.version.has(id)) return refuse('exists', 'A version with this id exists already.');
    const wrong = strange(session, parts as Parts);
    if (wrong) return wrong;
    const position = Math.max(0, ...[...session.version.values()].map((row) => row.position)) + POSITION_STEP;
    const row = newRow('version', { id, name, fader: fader ?? true, fades: fades ?? true, ...tidy(parts as Parts), position });
    return ok([creation('version', id, row)]);
  }
});

/**
 * Changes a version: what is given takes the place of what was there, whole.
 * @example { "do": "versions.set", "id": "version", "name": "Instrumental", "stems": { "bus": "-inf" } }
 */
export const versionsSet = define({
  name: 'versions.set',
  schema: yup.object({ id: id().required(), name: name(), ...fields }),
  label: (session, { id, name }) => {
    const was = session.version.get(id)?.name ?? 'a version';
    return name === undefined || name === was ? `Change version ${was}` : `Rename version ${was} to ${name}`;
  },
  plan: (session, { id, name, fader, fades, ...parts }) => {
    if (!session.version.has(id)) return refuse('not-found', 'This version is no longer in the session.', { id });
    const wrong = strange(session, parts as Parts);
    if (wrong) return wrong;
    const given = Object.fromEntries(
      Object.entries({ name, fader, fades, ...tidy(parts as Parts) }).filter(([, value]) => value !== undefined)
    );
    return ok(update(session, 'version', id, given));
  }
});

/**
 * Takes versions away; what was printed of them stays.
 * @example { "do": "versions.remove", "ids": ["version"] }
 */
export const versionsRemove = define({
  name: 'versions.remove',
  schema: yup.object({ ids: ids() }),
  label: (session, { ids }) =>
    ids.length === 1 ? `Remove version ${session.version.get(ids[0])?.name ?? ''}`.trim() : `Remove ${ids.length} versions`,
  plan: (session, { ids }) => {
    const missing = ids.find((each) => !session.version.has(each));
    if (missing) return refuse('not-found', 'This version is no longer in the session.', { id: missing });
    return ok([...new Set(ids)].map((each) => removal(session, 'version', each)));
  }
});

/**
 * The listed versions take, in the order given, the places that they hold together now.
 * @example { "do": "versions.order", "ids": ["other", "version"] }
 */
export const versionsOrder = define({
  name: 'versions.order',
  schema: yup.object({ ids: ids() }),
  label: (_, { ids }) => (ids.length === 1 ? 'Order a version' : `Order ${ids.length} versions`),
  plan: (session, { ids }) => {
    const order = [...new Set(ids)];
    const missing = order.find((each) => !session.version.has(each));
    if (missing) return refuse('not-found', 'This version is no longer in the session.', { id: missing });
    const places = order.map((each) => session.version.get(each)!.position).sort((a, b) => a - b);
    return ok(order.flatMap((each, i) => update(session, 'version', each, { position: places[i] })));
  }
});

const fade = () =>
  yup
    .object({
      frames: yup.number().integer().min(0).max(MOST_FRAMES).required(),
      curve: yup
        .string()
        .oneOf([...CURVES] as const)
        .default('linear')
    })
    .default(undefined);

/**
 * The mix’s fades: `in` from the beginning of the timeline, `out` to the end of the last clip; 0 frames are none. Curves are `linear`,
 * `power`, `slow` and `fast`.
 * @example { "do": "fades.set", "in": { "frames": 4800, "curve": "power" } }
 */
export const fadesSet = define({
  name: 'fades.set',
  schema: yup.object({ in: fade(), out: fade() }),
  label: (_, { in: first, out }) => (first && out ? 'Fades of the mix' : first ? 'Fade-in of the mix' : 'Fade-out of the mix'),
  plan: (session, { in: first, out }) => {
    if (!first && !out) return refuse('bad-arguments', 'Say the fade-in or the fade-out.');
    return ok(
      update(session, 'settings', 'settings', {
        ...(first ? { fadeIn: first.frames, fadeInCurve: first.curve } : {}),
        ...(out ? { fadeOut: out.frames, fadeOutCurve: out.curve } : {})
      })
    );
  }
});
