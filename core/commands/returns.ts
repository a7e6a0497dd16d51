// Commands that make returns, drive what goes through them, and set how they stand among the crosspoints.
import * as yup from 'yup';
import { laneName } from '../lanes/kinds.ts';
import { plays } from '../lanes/points.ts';
import { INSERT_TYPES, newInsert } from '../processors/index.ts';
import { ok, refuse } from '../result.ts';
import { loopClosedBy } from '../routing/graph.ts';
import { clampDb, TOP_DB } from '../units.ts';
import { creation, merge, update, type Change } from '../session/changes.ts';
import { newChannel, channelCreation, lastPosition, MIX, nextBorn, POSITION_STEP, newSend } from '../session/create.ts';
import { rowId, type Channel } from '../session/entities.ts';
import { idsBy, rowsBy } from '../session/lookup.ts';
import { channelsOf, counted, dbText } from '../session/select.ts';
import { commonOutput } from './buses.ts';
import { define, hue, id, ids, name, newId, whole } from './define.ts';
import { canSend, cannotSend } from './canSend.ts';
import { loopRefusal, planRoute } from './routing.ts';

/**
 * A return: solo-safe, its reverb 100 % wet; optionally with sends at −∞ from given channels.
 * @example { "do": "returns.add", "id": "x", "name": "Plate", "effect": "reverb", "sources": ["a"] }
 */
export const returnsAdd = define({
  name: 'returns.add',
  schema: yup.object({
    id: newId().required(),
    name: name().required(),
    colour: hue(),
    outputId: id().nullable().default(MIX),
    outputPair: whole().max(63).nullable().default(null),
    effect: yup
      .string()
      .oneOf([...INSERT_TYPES, 'none'] as const)
      .default('reverb'),
    sources: yup.array().of(id().required()).default([])
  }),
  label: (session, { name, sources }) =>
    sources.length ? `New return ${name} with sends from ${counted(session, sources)}` : `New return ${name}`,
  plan: (session, { id, name, colour, outputId, outputPair, effect, sources }) => {
    if (session.channel.has(id)) return refuse('exists', 'A channel with this id exists already.');
    const found = channelsOf(session, sources);
    if (!found.ok) return found;
    const count = idsBy(session, 'channel', 'kind', 'return').length;
    const channel: Channel = {
      ...newChannel({ id, kind: 'return', name, position: lastPosition(session), born: nextBorn(session), width: 2 }),
      colour: colour ?? (count * 5 + 7) % 12
    };
    // Its main output is judged as any other’s is; with what goes to it, further down.
    const routed = planRoute(
      session,
      [id],
      { outputId, outputPair: outputId === null ? outputPair : null },
      [channelCreation(channel)],
      'rule'
    );
    if (!routed.ok) return routed;
    const changes = merge([channelCreation(channel)], routed.value);
    if (effect !== 'none') {
      const insert = newInsert(`${id}:${effect}`, channel, effect, POSITION_STEP);
      changes.push(creation('insert', insert.id, insert));
    }
    const edges = found.value.map((source) => ({ from: source.id, to: id, via: 'send' as const }));
    const loop = loopClosedBy(
      session,
      outputId === null ? edges : [{ from: id, to: outputId, via: 'output' as const }, ...edges],
      new Set()
    );
    if (loop) return loopRefusal(loop.map((station) => (station === id ? name : station)));
    for (const source of found.value) {
      if (!canSend(source)) return refuse('sends-not', cannotSend(source));
      const send = newSend(source.id, channel);
      changes.push(creation('send', rowId('send', send), send));
    }
    return ok(changes);
  }
});

/**
 * A return beside what it takes from: a compressor at 100 % wet fed at unity, going where they all go, its fader at −∞. Nothing is
 * heard to change until it is raised.
 * @example { "do": "returns.parallel", "id": "x", "name": "Crush", "sources": ["a"], "effect": "comp" }
 */
export const returnsParallel = define({
  name: 'returns.parallel',
  schema: yup.object({
    id: newId().required(),
    name: name().required(),
    sources: ids(),
    effect: yup
      .string()
      .oneOf([...INSERT_TYPES, 'none'] as const)
      .default('comp')
  }),
  label: (session, { name, sources }) => `Parallel return ${name} from ${counted(session, sources)}`,
  plan: (session, { id, name, sources, effect }) => {
    const found = channelsOf(session, sources);
    if (!found.ok) return found;
    const shared = commonOutput(found.value);
    if (!shared.ok) return shared;
    const made = returnsAdd.plan(session, { id, name, ...shared.value, effect, sources, colour: found.value[0].colour });
    if (!made.ok) return made;
    return ok(
      made.value.map((change) => {
        if (change.table === 'channel') return { ...change, after: { ...change.after, faderDb: -Infinity } };
        return change.table === 'send' ? { ...change, after: { ...change.after, levelDb: 0 } } : change;
      })
    );
  }
});

/**
 * Drive: all sends into a return up by so many dB and the return down by as many (or the reverse): more of its effect at the same
 * level. Goes as far as the loudest of them can before +12 dB.
 * @example { "do": "returns.drive", "id": "echo", "by": 4 }
 */
export const returnsDrive = define({
  name: 'returns.drive',
  schema: yup.object({ id: id().required(), by: yup.number().min(-132).max(132).required() }),
  label: (session, { id, by }) => `Drive ${session.channel.get(id)?.name ?? 'return'} by ${dbText(by)} dB`,
  plan: (session, { id, by }) => {
    const found = channelsOf(session, [id]);
    if (!found.ok) return found;
    const [channel] = found.value;
    if (channel.kind !== 'return') return refuse('not-a-return', `${channel.name} is no return: there is nothing to drive.`);
    const arriving = [...session.send].filter(([, { targetId, levelDb }]) => targetId === id && levelDb > -Infinity);
    if (arriving.length === 0) return refuse('empty', `Nothing is sent to ${channel.name} yet. Raise a send first.`);
    if (channel.faderDb === -Infinity) return refuse('silent', `${channel.name} is at −∞. Raise its fader first.`);
    const laned = [...session.lane.values()].find(
      (lane) =>
        plays(session, lane) && (lane.targetId === id || (lane.channelId === id && (lane.of === 'fader' || lane.of === 'sendLevel')))
    );
    if (laned)
      return refuse(
        'automated',
        `The ${laneName(session, laned)} follows its lane: driving would not be heard as it is. Switch it off first.`
      );
    const [inside] = rowsBy(session, 'channel', 'outputId', id);
    if (inside)
      return refuse('changes-sound', `${inside.name} is routed into ${channel.name}: its level would not follow. Send it there instead.`);
    const own = [...session.send].filter(([, { sourceId, tap, levelDb }]) => sourceId === id && tap !== 'post' && levelDb > -Infinity);
    const key = rowsBy(session, 'insert', 'keyId', id).find(({ keyTap, channelId }) => keyTap !== 'post' && channelId !== id);
    if (key)
      return refuse(
        'changes-sound',
        `${session.channel.get(key.channelId)?.name ?? 'A channel'} listens to ${channel.name} before its fader as a key. Take the key behind it first.`
      );
    const highest = Math.max(...arriving.map(([, { levelDb }]) => levelDb));
    // What it sends on from before its fader goes the other way, or more of it would arrive there.
    const highestOwn = Math.max(-Infinity, ...own.map(([, { levelDb }]) => levelDb));
    const most = Math.max(channel.faderDb - TOP_DB, highestOwn - TOP_DB, Math.min(TOP_DB - highest, by));
    const changes: Change[] = arriving.flatMap(([key, { levelDb }]) => update(session, 'send', key, { levelDb: clampDb(levelDb + most) }));
    for (const [key, { levelDb }] of own) changes.push(...update(session, 'send', key, { levelDb: clampDb(levelDb - most) }));
    return ok([...changes, ...update(session, 'channel', id, { faderDb: clampDb(channel.faderDb - most) })]);
  }
});

/**
 * Order of the columns of returns and cues, first to last; those not named keep their order behind them.
 * @example { "do": "columns.order", "ids": ["room", "echo"] }
 */
export const columnsOrder = define({
  name: 'columns.order',
  schema: yup.object({ ids: ids() }),
  label: (session, { ids }) => `Order ${counted(session, ids, 'column')}`,
  plan: (session, { ids }) => {
    const found = channelsOf(session, ids);
    if (!found.ok) return found;
    const rest = [...session.channel.values()]
      .filter(({ id, kind }) => (kind === 'return' || kind === 'cue') && !ids.includes(id))
      .sort((a, b) => a.column - b.column || a.position - b.position);
    return ok([...ids, ...rest.map((row) => row.id)].flatMap((row, i) => update(session, 'channel', row, { column: i + 1 })));
  }
});

/**
 * Hides columns of the crosspoints, or shows them; their sends stay as they are.
 * @example { "do": "columns.hide", "ids": ["room"], "on": true }
 */
export const columnsHide = define({
  name: 'columns.hide',
  schema: yup.object({ ids: ids(), on: yup.boolean().required() }),
  label: (session, { ids, on }) => `${on ? 'Hide' : 'Show'} ${counted(session, ids, 'column')}`,
  plan: (session, { ids, on }) => {
    const found = channelsOf(session, ids);
    return found.ok ? ok(ids.flatMap((row) => update(session, 'channel', row, { columnHidden: on }))) : found;
  }
});
