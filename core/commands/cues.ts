// Cues: headphone mixes with sends before the fader, an interface output pair of their own, and a page for the player.
import * as yup from 'yup';
import { ok, refuse } from '../result.ts';
import { clampDb, type Db } from '../units.ts';
import { creation, removal, type Change } from '../session/changes.ts';
import { newChannel, channelCreation, lastPosition, nextBorn, newSend } from '../session/create.ts';
import { rowId, settingsOf, type Channel, type Session } from '../session/entities.ts';
import { mixChain } from '../routing/graph.ts';
import { levelOf, mutedOf } from '../routing/level.ts';
import { idsBy, rowsBy } from '../session/lookup.ts';
import { channelsOf, counted } from '../session/select.ts';
import { define, id, ids, name, newId, whole } from './define.ts';
import { canSend, cannotSend } from './canSend.ts';

/** The interface output pairs that nothing goes to, lowest first. */
export function freePairs(session: Session): number[] {
  const taken = new Set([...session.channel.values()].map(({ outputPair }) => outputPair));
  return Array.from({ length: settingsOf(session).interfaceOutputs / 2 }, (_, pair) => pair).filter((pair) => !taken.has(pair));
}

/** Faders, trims and mutes that lie between a channel's fader and the last stage of the mix, its own fader included; null: it does not get there. */
function levelInMix(session: Session, channel: Channel): { readonly level: Db; readonly on: boolean } | null {
  const last = mixChain(session).at(-1)!.id;
  let level = levelOf(session, channel);
  let on = !mutedOf(session, channel);
  for (let at = channel; at.id !== last;) {
    const next = at.outputId === null ? undefined : session.channel.get(at.outputId);
    if (!next) return null;
    level += levelOf(session, next) + next.trimDb;
    on &&= !mutedOf(session, next);
    at = next;
  }
  return { level, on };
}

/** A click: a track without recordings that goes nowhere but into cues. */
const isClick = ({ kind, pattern, outputId, outputPair }: Channel) =>
  kind === 'track' && pattern !== null && outputId === null && outputPair === null;

/**
 * A cue, with sends at −∞ from the sources named, or `from: 'mix'` with sends of every track and return as loud as each is in the
 * mix now: taken before the fader, so that it stays as it is while one mixes. Clicks are sent to it at unity.
 * @example { "do": "cues.add", "id": "x", "name": "Drummer", "from": "mix" }
 */
export const cuesAdd = define({
  name: 'cues.add',
  schema: yup.object({
    id: newId().required(),
    name: name().required(),
    pair: whole().max(63),
    from: yup
      .string()
      .oneOf(['mix', 'nothing'] as const)
      .default('nothing'),
    sources: yup.array().of(id().required()).default([])
  }),
  label: (_, { name, from }) => `New cue ${name}${from === 'mix' ? ' from the mix as it stands' : ''}`,
  plan: (session, { id, name, pair, from, sources }) => {
    if (session.channel.has(id)) return refuse('exists', 'A channel with this id exists already.');
    const found = channelsOf(session, sources);
    if (!found.ok) return found;
    const { interfaceOutputs } = settingsOf(session);
    const outputPair = pair ?? freePairs(session)[0];
    if (outputPair === undefined)
      return refuse('no-output', `All ${interfaceOutputs} outputs of the interface are taken. Give it more, or free a pair.`);
    if (outputPair * 2 + 2 > interfaceOutputs)
      return refuse('no-output', `The interface has ${interfaceOutputs} outputs. Choose one of them.`);
    const cue: Channel = {
      ...newChannel({ id, kind: 'cue', name, position: lastPosition(session), born: nextBorn(session), width: 2 }),
      colour: (idsBy(session, 'channel', 'kind', 'cue').length * 5 + 3) % 12,
      outputPair
    };
    const changes: Change[] = [channelCreation(cue)];
    for (const channel of session.channel.values()) {
      const chosen = sources.includes(channel.id);
      if (chosen && !canSend(channel)) return refuse('sends-not', cannotSend(channel));
      const inMix = from === 'mix' && (channel.kind === 'track' || channel.kind === 'return') ? levelInMix(session, channel) : null;
      const click = isClick(channel);
      if (!chosen && !inMix && !click) continue;
      const send = newSend(channel.id, cue);
      const level = click ? 0 : inMix ? clampDb(inMix.level) : -Infinity;
      changes.push(creation('send', rowId('send', send), { ...send, levelDb: level, on: inMix?.on ?? true }));
    }
    return ok(changes);
  }
});

/**
 * A click for players: a pulse every quarter note, solo-safe, heard in every cue and nowhere else.
 * @example { "do": "clicks.add", "id": "x", "name": "Click" }
 */
export const clicksAdd = define({
  name: 'clicks.add',
  schema: yup.object({ id: newId().required(), name: name().required() }),
  label: (_, { name }) => `New click ${name}`,
  plan: (session, { id, name }) => {
    if (session.channel.has(id)) return refuse('exists', 'A channel with this id exists already.');
    const click: Channel = {
      ...newChannel({ id, kind: 'track', name, position: lastPosition(session), born: nextBorn(session), width: 1 }),
      soloSafe: true,
      pattern: { of: 'pulse', every: 1, accentDb: 6, levelDb: -12, length: 4, decay: 60 }
    };
    const cues = rowsBy(session, 'channel', 'kind', 'cue').sort((a, b) => a.born - b.born);
    return ok([
      channelCreation(click),
      ...cues.map((cue) => {
        const send = { ...newSend(id, cue), levelDb: 0 };
        return creation('send', rowId('send', send), send);
      })
    ]);
  }
});

/**
 * Opens a cue to its player under a token: the page's address ends in it. One that was open before is closed.
 * @example { "do": "cues.share", "id": "cue", "token": "a-token-of-some-length" }
 */
export const cuesShare = define({
  name: 'cues.share',
  schema: yup.object({
    id: id().required(),
    token: yup
      .string()
      .matches(/^[\w-]{20,80}$/, 'a token has 20 to 80 letters')
      .required()
  }),
  label: (session, { id }) => `Open ${session.channel.get(id)?.name ?? 'cue'} to its player`,
  plan: (session, { id, token }) => {
    const found = channelsOf(session, [id]);
    if (!found.ok) return found;
    if (found.value[0].kind !== 'cue') return refuse('not-a-cue', `${found.value[0].name} is no cue.`);
    return ok([...closed(session, [id]), creation('cueToken', token, { id: token, channelId: id })]);
  }
});

/**
 * Closes cues to their players: the addresses lead nowhere from then on.
 * @example { "do": "cues.unshare", "ids": ["cue"] }
 */
export const cuesUnshare = define({
  name: 'cues.unshare',
  schema: yup.object({ ids: ids() }),
  label: (session, { ids }) => `Close ${counted(session, ids)} to its player`,
  plan: (session, { ids }) => ok(closed(session, ids))
});

const closed = (session: Session, ids: readonly string[]): Change[] =>
  [...new Set(ids)].flatMap((id) => idsBy(session, 'cueToken', 'channelId', id)).map((key) => removal(session, 'cueToken', key));
