// VCAs: faders without audio that offset those of their members. A VCA is a channel: faders, mutes, solos, names, colours, pins and places
// are set by the commands of channels.
import * as yup from 'yup';
import { levelOf } from '../routing/level.ts';
import { ok, refuse, type Result } from '../result.ts';
import { creation, removal, update, type Change } from '../session/changes.ts';
import { channelCreation, lastPosition, newChannel, nextBorn } from '../session/create.ts';
import { removedWith } from '../session/dependents.ts';
import { rowId, type Channel, type Session } from '../session/entities.ts';
import { channelsOf, counted } from '../session/select.ts';
import { canBeHeld, heldAlong, heldBy, holdersOf, isVca, withHeld } from '../session/vcas.ts';
import { FLOOR_DB, TOP_DB, type Db } from '../units.ts';
import { setLevel } from '../links/relative.ts';
import { foldedLanes, foldsLanes } from './foldLanes.ts';
import { define, hue, id, ids, name, newId } from './define.ts';
import { faderOf } from './linked/levels.ts';
import { inSequence } from './sequence.ts';

const held = (vcaId: string, channelId: string) => creation('vcaMember', rowId('vcaMember', { vcaId, channelId }), { vcaId, channelId });

/** Memberships that put channels into a VCA, or why one cannot be in it. */
function putInto(session: Session, vca: Channel, members: readonly string[]): Result<Change[]> {
  const found = channelsOf(session, members);
  if (!found.ok) return found;
  return inSequence(session, found.value, (channel) => {
    if (!canBeHeld(channel))
      return refuse(
        'not-a-member',
        `${channel.name} is a ${channel.kind === 'cue' ? 'cue' : 'key track'}: VCAs hold tracks, buses, returns, the mix bus and VCAs.`
      );
    const way = heldAlong(session, channel.id, vca.id);
    if (way) {
      const stations = [vca.id, ...way].map((each) => session.channel.get(each)!.name);
      return refuse('loop', `A VCA cannot hold itself: ${stations.join(' → ')}. Leave ${channel.name} out.`, { stations });
    }
    return ok(session.vcaMember.has(rowId('vcaMember', { vcaId: vca.id, channelId: channel.id })) ? [] : [held(vca.id, channel.id)]);
  });
}

const vcasOf = (session: Session, list: readonly string[]): Result<Channel[]> => {
  const found = channelsOf(session, list);
  if (!found.ok) return found;
  const other = found.value.find((channel) => !isVca(channel));
  return other ? refuse('not-a-vca', `${other.name} is no VCA. Choose one under Links.`) : found;
};

/**
 * A VCA at 0 dB: nothing is heard to change. Members may be VCAs.
 * @example { "do": "vcas.add", "id": "x", "name": "RHYTHM", "members": ["a", "b"] }
 */
export const vcasAdd = define({
  name: 'vcas.add',
  schema: yup.object({
    id: newId().required(),
    name: name().required(),
    members: yup.array().of(id().required()).default([]),
    colour: hue()
  }),
  label: (session, { name, members }) => (members.length ? `New VCA ${name} over ${counted(session, members)}` : `New VCA ${name}`),
  plan: (session, { id, name, members, colour }) => {
    if (session.channel.has(id)) return refuse('exists', 'A channel with this id exists already.');
    const vca: Channel = {
      ...newChannel({ id, kind: 'vca', name, position: lastPosition(session), born: nextBorn(session) }),
      colour: colour ?? session.channel.get(members[0])?.colour ?? 0
    };
    return inSequence(session, [ok([channelCreation(vca)]), null], (step) => step ?? putInto(session, vca, members));
  }
});

/**
 * Puts channels into a VCA and takes them out. Their own faders stay where they are.
 * @example { "do": "vcas.members", "id": "vca", "add": ["c"], "remove": ["a"] }
 */
export const vcasMembers = define({
  name: 'vcas.members',
  schema: yup.object({
    id: id().required(),
    add: yup.array().of(id().required()).default([]),
    remove: yup.array().of(id().required()).default([])
  }),
  label: (session, { id, add, remove }) => {
    const vca = session.channel.get(id)?.name ?? 'a VCA';
    if (!remove.length) return `Put ${counted(session, add)} into VCA ${vca}`;
    return add.length ? `Members of VCA ${vca}` : `Take ${counted(session, remove)} out of VCA ${vca}`;
  },
  plan: (session, { id, add, remove }) => {
    const found = vcasOf(session, [id]);
    if (!found.ok) return found;
    const gone = [...new Set(remove)]
      .map((channelId) => rowId('vcaMember', { vcaId: id, channelId }))
      .filter((key) => session.vcaMember.has(key))
      .map((key) => removal(session, 'vcaMember', key));
    return inSequence(session, [ok(gone), null], (step) => step ?? putInto(session, found.value[0], add));
  }
});

/**
 * Takes VCAs away; what they hold joins the VCAs above them. With `fold` their level, mute and solo go into their members, so that nothing
 * is heard to change: into VCAs first, and into channels what these still lack. Refused where that would pass +12 dB.
 * @example { "do": "vcas.remove", "ids": ["vca"], "fold": true }
 */
export const vcasRemove = define({
  name: 'vcas.remove',
  schema: yup.object({ ids: ids(), fold: yup.boolean().required() }),
  label: (session, { ids, fold }) =>
    `Remove ${ids.length === 1 ? `VCA ${counted(session, ids)}` : `${ids.length} VCAs`}${fold ? ', folded in' : ''}`,
  plan: (session, { ids, fold }) => {
    const found = vcasOf(session, ids);
    if (!found.ok) return found;
    return inSequence(session, found.value, (vca) => {
      const joined = (change: Change[]): Result<Change[]> =>
        inSequence(session, [ok(change), null], (step) => step ?? ok([...vcaGone(session, vca.id), removal(session, 'channel', vca.id)]));
      if (!fold) return joined([]);
      const folded = (foldsLanes(session, vca.id) ? foldedLanes : foldedIn)(session, session.channel.get(vca.id)!);
      return folded.ok ? joined(folded.value) : folded;
    });
  }
});

/** What goes with a VCA, and the memberships by which what it holds joins those above it; the VCA itself is left to the caller. */
function vcaGone(session: Session, vcaId: string): Change[] {
  const above = holdersOf(session, vcaId);
  const joining = heldBy(session, vcaId).flatMap((id) =>
    above.filter((vca) => !session.vcaMember.has(rowId('vcaMember', { vcaId: vca, channelId: id }))).map((vca) => held(vca, id))
  );
  return [...removedWith(session, new Set([vcaId])), ...joining];
}

/** The changes that put a VCA's level, mute and solo into what it holds. */
function foldedIn(session: Session, vca: Channel): Result<Change[]> {
  const by = vca.faderDb;
  const direct = heldBy(session, vca.id).map((id) => session.channel.get(id)!);
  const switched = direct.flatMap(({ id, mute, solo }) =>
    update(session, 'channel', id, { mute: mute || vca.mute, solo: solo || vca.solo })
  );
  if (by === 0) return ok(switched);
  const loud: string[] = [];
  const put = ({ id, name }: Channel, level: Db): Change[] => {
    if (level > TOP_DB) loud.push(name);
    const { level: faderDb, last: lastDb } = setLevel(
      faderOf(session, id),
      level < FLOOR_DB ? -Infinity : Math.round(level * 1e9) / 1e9,
      true
    );
    return update(session, 'channel', id, { faderDb, lastDb });
  };
  const beneath = [...withHeld(session, [vca.id])].map((id) => session.channel.get(id)!).filter((channel) => !isVca(channel));
  const before = new Map(beneath.map((channel) => [channel.id, levelOf(session, channel)]));
  const vcas = direct.filter((channel) => isVca(channel) && channel.faderDb > -Infinity);
  const without = update(session, 'channel', vca.id, { faderDb: 0 });
  const folded = inSequence(
    session,
    [() => [...switched, ...without, ...vcas.flatMap((each) => put(each, each.faderDb + by))], lacking],
    (step) => ok(step())
  );
  function lacking(): Change[] {
    return beneath.flatMap(({ id }) => {
      const channel = session.channel.get(id)!;
      const now = levelOf(session, channel);
      const was = before.get(id)!;
      return now === -Infinity || Math.abs(was - now) < 1e-6 ? [] : put(channel, channel.faderDb + was - now);
    });
  }
  if (loud.length)
    return refuse('too-loud', `Folded in, ${loud.join(', ')} would pass +12 dB. Lower ${vca.name} first, or remove it without.`, {
      names: loud
    });
  return folded;
}
