// Commands for what a row shows: fader, pan, mute, solo, solo-safe; whether it is shown, and whether it rests.
import * as yup from 'yup';
import { mixChain } from '../routing/graph.ts';
import { widthOf } from '../routing/width.ts';
import { ok, refuse } from '../result.ts';
import { clampDb, clampPan } from '../units.ts';
import { update, type Change } from '../session/changes.ts';
import { settingsOf, type Channel, type Session } from '../session/entities.ts';
import { idsBy } from '../session/lookup.ts';
import { setLevel } from '../links/relative.ts';
import { setField } from './byHand.ts';
import { faderOf, linkedFaders } from './linked/levels.ts';
import { linkedPans } from './linked/pans.ts';
import { linkedIds } from './linked/switches.ts';
import { channelsOf, counted, dbText } from '../session/select.ts';
import { define, id, ids, level } from './define.ts';
import { handOn, onLane } from './hand.ts';
import { field } from './field.ts';

const idsIn = (list: readonly { id: string }[]) => list.map((entry) => entry.id);

const levels = () =>
  yup
    .array()
    .of(yup.object({ id: id().required(), level: level().required() }))
    .min(1)
    .required();
const levelLabel =
  (noun: string) =>
  (session: Session, { levels: list }: { levels: { id: string; level: number }[] }) =>
    list.length === 1
      ? `${noun} of ${counted(session, idsIn(list))} to ${dbText(clampDb(list[0].level))} dB`
      : `${noun}s of ${counted(session, idsIn(list))}`;

/**
 * Faders, each to its own level; clamped to −∞ … +12 dB. One whose lane plays is refused unless `lane` says what becomes of that: `trim`
 * shifts all of it by the difference from what it is at frame `at`, `write` sets a point there. So it is with all moves of values.
 * @example { "do": "faders.set", "levels": [{"id": "a", "level": -6}, {"id": "b", "level": "-inf"}] }
 */
export const fadersSet = define({
  name: 'faders.set',
  schema: yup.object({ levels: levels(), linked: yup.boolean(), ...onLane }),
  label: levelLabel('Fader'),
  linked: linkedFaders,
  plan: (session, { levels: list, linked = false, ...onto }) => {
    const found = channelsOf(session, idsIn(list));
    if (!found.ok) return found;
    const moves = list.map(({ id, level: to }) => ({ asked: { channelId: id, of: 'fader' as const }, to: clampDb(to) }));
    const hand = handOn(session, moves, onto);
    if (!hand.ok) return hand;
    return ok([
      ...hand.value.changes,
      ...list.flatMap(({ id, level: to }, i) => {
        if (hand.value.led.has(moves[i])) return [];
        const { level: faderDb, last: lastDb } = setLevel(faderOf(session, id), clampDb(to), linked);
        return update(session, 'channel', id, { faderDb, lastDb });
      })
    ]);
  }
});
/**
 * Trims of inputs, before the inserts, each to its own level.
 * @example { "do": "trims.set", "levels": [{"id": "a", "level": -12}] }
 */
export const trimsSet = define({
  name: 'trims.set',
  schema: yup.object({ levels: levels() }),
  label: levelLabel('Trim'),
  plan: (session, { levels: list }) => {
    const found = channelsOf(session, idsIn(list));
    return found.ok ? ok(list.flatMap(({ id, level: to }) => update(session, 'channel', id, { trimDb: clampDb(to) }))) : found;
  }
});

/**
 * Pans, and of what leaves its channel in stereo two pins (`right` null is one) and the width in per cent.
 * @example { "do": "pans.set", "pans": [{"id": "a", "pan": -35}, {"id": "b", "pan": -40, "right": 60}] }
 */
export const pansSet = define({
  name: 'pans.set',
  schema: yup.object({
    pans: yup
      .array()
      .of(yup.object({ id: id().required(), pan: yup.number(), right: yup.number().nullable(), spread: yup.number() }))
      .min(1)
      .required(),
    auto: yup.boolean(),
    ...onLane
  }),
  label: (session, { pans }) => `Pan of ${counted(session, idsIn(pans))}`,
  linked: linkedPans,
  plan: (session, { pans, auto, ...onto }) => {
    const found = channelsOf(session, idsIn(pans));
    if (!found.ok) return found;
    const sidesOf = (id: string) => widthOf(session, session.channel.get(id)!);
    const changes: Change[] = [];
    for (const { id, pan, right, spread } of pans) {
      const fields: Record<string, number | null> = {
        ...(pan === undefined ? {} : { pan: clampPan(pan) }),
        // Only where two sides leave a channel are there two to place apart.
        ...(right === undefined || sidesOf(id) === 1 ? {} : { panRight: right === null ? null : clampPan(right) }),
        ...(spread === undefined || sidesOf(id) === 1 ? {} : { spread: clampSpread(spread) })
      };
      const moves = PLACES.flatMap((of) => (typeof fields[of] === 'number' ? [{ asked: { channelId: id, of }, to: fields[of] }] : []));
      const hand = handOn(session, moves, onto);
      if (!hand.ok) return hand;
      for (const { asked } of hand.value.led) delete fields[asked.of];
      changes.push(...hand.value.changes, ...(Object.keys(fields).length ? setField(session, id, 'pan', fields, auto) : []));
    }
    return ok(changes);
  }
});
const PLACES = ['pan', 'panRight', 'spread'] as const;

const clampSpread = (spread: number) => Math.max(0, Math.min(200, Math.round(spread))) + 0;

/**
 * Mono or stereo inside: buses, returns, cues and the mix bus; a track is as wide as its recordings.
 * @example { "do": "widths.set", "ids": ["mono"], "width": 2 }
 */
export const widthsSet = define({
  name: 'widths.set',
  schema: yup.object({
    ids: ids(),
    width: field('channel', 'width').required()
  }),
  label: (session, { ids, width }) => `${counted(session, ids)} ${width === 1 ? 'mono' : 'stereo'}`,
  plan: (session, { ids, width }) => {
    const found = channelsOf(session, ids);
    if (!found.ok) return found;
    const recorded = found.value.find(({ kind }) => kind === 'track' || kind === 'key');
    if (recorded) return refuse('track', `${recorded.name} is as wide as its recordings. Pair or split tracks in the Roster.`);
    // A pan of one side means another thing than a balance: it starts anew, but only where the width does.
    return ok(
      found.value
        .filter((channel) => channel.width !== width)
        .flatMap(({ id }) =>
          update(session, 'channel', id, width === 1 ? { width, pan: 0, panRight: null, spread: 100 } : { width, pan: 0 })
        )
    );
  }
});

const toggle = <Name extends string>(
  name: Name,
  field: 'mute' | 'solo' | 'soloSafe' | 'polarity' | 'hidden' | 'resting' | 'pinned',
  on: string,
  off: string
) =>
  define({
    name,
    schema: yup.object({ ids: ids(), on: yup.boolean().required() }),
    label: (session, args) => `${args.on ? on : off} ${counted(session, args.ids)}`,
    plan: (session, args) => {
      const found = channelsOf(session, args.ids);
      return found.ok ? ok(args.ids.flatMap((id) => update(session, 'channel', id, { [field]: args.on }))) : found;
    }
  });

/**
 * Mutes channels, or opens them. What of their sends closes with them is a setting of the session.
 * @example { "do": "mutes.set", "ids": ["a"], "on": true }
 */
export const mutesSet = { ...toggle('mutes.set', 'mute', 'Mute', 'Unmute'), linked: linkedIds('mutes.set', 'mute') };
const canSolo = ({ kind }: Channel) => kind !== 'cue' && kind !== 'key';
const soloToggle = toggle('solos.set', 'solo', 'Solo', 'Unsolo');
/**
 * Solo of tracks, buses, returns and the mix. A cue is listened to instead; a key track is never heard.
 * @example { "do": "solos.set", "ids": ["a"], "on": true }
 */
export const solosSet: typeof soloToggle = {
  ...soloToggle,
  linked: linkedIds('solos.set', 'solo', (session, id) => canSolo(session.channel.get(id)!)),
  plan: (session, args) => {
    const never = args.ids.map((id) => session.channel.get(id)).find((channel) => channel && !canSolo(channel));
    if (never && args.on)
      return refuse(
        'no-solo',
        never.kind === 'cue' ? `${never.name} is a cue: choose it under Listen to hear it.` : `${never.name} is heard by key inputs only.`
      );
    return soloToggle.plan(session, args);
  }
};

const soloedOf = (session: Session) => idsBy(session, 'channel', 'solo', true);

/**
 * Nothing soloed any more; what was is remembered for `solos.recall`.
 * @example { "do": "solos.clear" }
 */
export const solosClear = define({
  name: 'solos.clear',
  schema: yup.object({}),
  label: (session) => `Clear solo of ${counted(session, soloedOf(session))}`,
  plan: (session) => {
    const soloed = soloedOf(session);
    if (soloed.length === 0) return ok([]);
    return ok([
      ...soloed.flatMap((id) => update(session, 'channel', id, { solo: false })),
      ...update(session, 'settings', 'settings', { lastSolo: [...soloed] })
    ]);
  }
});

/**
 * The set that was soloed last, as far as it is still there.
 * @example { "do": "solos.recall" }
 */
export const solosRecall = define({
  name: 'solos.recall',
  schema: yup.object({}),
  label: () => 'Recall the last solo',
  plan: (session) => {
    // What became a key track or a cue since is none to solo.
    const last = settingsOf(session).lastSolo.filter((id) => session.channel.has(id) && canSolo(session.channel.get(id)!));
    if (last.length === 0) return refuse('empty', 'No solo was cleared yet: there is nothing to recall.');
    return ok([...session.channel.keys()].flatMap((id) => update(session, 'channel', id, { solo: last.includes(id) })));
  }
});

/**
 * Solo-safe: what stays heard whatever is soloed.
 * @example { "do": "safes.set", "ids": ["echo"], "on": false }
 */
export const safesSet = toggle('safes.set', 'soloSafe', 'Solo-safe on:', 'Solo-safe off:');
/**
 * Inverts the polarity of inputs, or restores it.
 * @example { "do": "polarities.set", "ids": ["a"], "on": true }
 */
export const polaritiesSet = toggle('polarities.set', 'polarity', 'Invert polarity of', 'Restore polarity of');
/**
 * Leaves rows out of the views, or shows them. They sound all the same.
 * @example { "do": "hides.set", "ids": ["a"], "on": true }
 */
export const hidesSet = toggle('hides.set', 'hidden', 'Hide', 'Show');
/**
 * Keeps rows in the pinned section, always in view.
 * @example { "do": "pins.set", "ids": ["a"], "on": true }
 */
export const pinsSet = toggle('pins.set', 'pinned', 'Pin', 'Unpin');

const restToggle = toggle('rests.set', 'resting', 'Rest', 'Wake');
/**
 * Rest, or wake. The mix chain cannot rest: nothing would be heard, and its last stage has the output.
 * @example { "do": "rests.set", "ids": ["a"], "on": true }
 */
export const restsSet: typeof restToggle = {
  ...restToggle,
  plan: (session, args) => {
    const stage = args.on && mixChain(session).find(({ id }) => args.ids.includes(id));
    if (stage) return refuse('mix-bus', `${stage.name} is part of the mix chain, which all goes through. Leave it out of the selection.`);
    const vca = args.on && args.ids.map((id) => session.channel.get(id)).find((channel) => channel?.kind === 'vca');
    if (vca) return refuse('vca', `${vca.name} is a VCA, which costs nothing. Rest the channels that it holds.`);
    return restToggle.plan(session, args);
  }
};
