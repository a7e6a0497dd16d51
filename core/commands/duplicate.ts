// Copies of channels and of whole branches.
import * as yup from 'yup';
import { ok } from '../result.ts';
import { creation, type Change } from '../session/changes.ts';
import { MIX, nextBorn } from '../session/create.ts';
import { copiedWith, within } from '../session/dependents.ts';
import type { Channel } from '../session/entities.ts';
import { freshInCopies } from '../session/tables.ts';
import { branchOf } from '../routing/graph.ts';
import { channelsOf, counted, inOrder, roomAfter } from '../session/select.ts';
import { cut } from '../text.ts';
import { freePairs } from './cues.ts';
import { refuse } from '../result.ts';
import { define, ids } from './define.ts';

/**
 * Copies stand below what they copy, with the same clips, inserts, level and output; `branch` takes all that is routed into them
 * along, `sends` the sends of all that is copied, `groups` puts the copies into the VCAs and link groups of their originals. Ids begin with `as`. Keys and outputs within what is copied stay within the copy.
 * @example { "do": "channels.duplicate", "ids": ["bus"], "as": "x", "branch": true }
 */
export const channelsDuplicate = define({
  name: 'channels.duplicate',
  schema: yup.object({
    ids: ids(),
    as: yup
      .string()
      .matches(/^[\w:.-]{1,60}$/, 'a beginning of ids has 1 to 60 letters')
      .required(),
    branch: yup.boolean().default(false),
    sends: yup.boolean().default(true),
    groups: yup.boolean().default(true)
  }),
  label: (session, { ids, branch }) => `Duplicate ${counted(session, ids)}${branch ? ' with all that goes in' : ''}`,
  plan: (session, { ids, as, branch, sends, groups }) => {
    const found = channelsOf(session, ids);
    if (!found.ok) return found;
    if (found.value.some(({ kind }) => kind === 'mix')) return refuse('mix-bus', 'There is one mix bus. Leave it out of the selection.');
    const wanted = new Set(branch ? ids.flatMap((each) => branchOf(session, each)) : ids);
    const whole = found.value.find(({ id }) => branch && branchOf(session, id).includes(MIX));
    if (whole) return refuse('mix-bus', `The mix bus goes into ${whole.name}, and there is only one. Duplicate ${whole.name} alone.`);
    const order = inOrder(session);
    const copied = order.filter((channel) => wanted.has(channel.id));
    const copyOf = new Map(copied.map((channel, i) => [channel.id, `${as}:${i}`]));
    for (const copy of copyOf.values()) if (session.channel.has(copy)) return refuse('exists', 'A channel with this id exists already.');
    const room = roomAfter(session, copied.at(-1)!.id, copied.length);
    const pairs = freePairs(session);
    const cues = copied.filter(({ kind }) => kind === 'cue');
    if (cues.length > pairs.length)
      return refuse(
        'no-output',
        `${cues[0].name} needs interface outputs of its own, and none are free. Give the interface more, or free a pair.`
      );
    const names = new Set(order.map(({ name }) => name));
    let born = nextBorn(session);
    const created: Change[] = copied.map((channel, i) => {
      const copy: Channel = {
        ...channel,
        ...within('channel', channel, new Map([['channel', copyOf]])),
        ...freshInCopies('channel'),
        id: copyOf.get(channel.id)!,
        name: nextName(channel.name, names),
        position: room.positions[i],
        born: born++,
        // Two players do not share their outputs.
        ...(channel.kind === 'cue' ? { outputPair: pairs[cues.indexOf(channel)] } : {})
      };
      names.add(copy.name);
      return creation('channel', copy.id, copy);
    });
    return ok([
      ...room.moved,
      ...created,
      ...copiedWith(session, copyOf, {
        without: [...(sends ? [] : (['send'] as const)), ...(groups ? [] : (['vcaMember', 'linkMember'] as const))]
      })
    ]);
  }
});

/** "Pan 2" after "Pan", "Pan 3" after "Pan 2": the first number that is free. */
export function nextName(name: string, taken: ReadonlySet<string>): string {
  const [, stem, number] = /^(.*?)(?: (\d{1,4}))?$/.exec(name)!;
  for (let next = Number(number ?? 1) + 1; ; next++) {
    const name = `${cut(stem, 114)} ${next}`;
    if (!taken.has(name)) return name;
  }
}
