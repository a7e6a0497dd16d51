// What makes stems sound again: for each flaw the commands that would, most fitting first. They are shown before they are carried out.
import type { Command } from '../commands/index.ts';
import { branchOf, type Edge } from '../routing/graph.ts';
import { MIX } from '../session/create.ts';
import type { Session } from '../session/entities.ts';
import { rowsBy } from '../session/lookup.ts';
import { homeOf, stemsOf, type Flaw } from './soundness.ts';

export type Repair = {
  /** On a button: "Twin Room for BRASS". */
  readonly label: string;
  readonly commands: readonly Command[];
  /** A return that gets twins: its own question shows what they would be. */
  readonly twins?: { readonly id: string; readonly buses: readonly string[] };
  /** What it changes in what is heard, in words. */
  readonly note?: string;
};

/**
 * Ways to mend a flaw; `fresh` gives ids of what is new.
 * `repairsOf(session, flaw, () => crypto.randomUUID())[0].commands` → `[{ do: 'returns.twin', … }]`
 */
export function repairsOf(session: Session, flaw: Flaw, fresh: () => string): Repair[] {
  const { code, edge } = flaw;
  if (edge.via === 'send' && code !== 'split' && code !== 'double') return [sendOff(session, edge)];
  if (code === 'escape') return [routed(session, edge.from, MIX)];
  if (code === 'stray' || code === 'side-entry') return entering(session, flaw, fresh);
  if (code === 'double') return crossing(session, flaw);
  return splitting(session, flaw, fresh);
}

const nameOf = (session: Session, id: string) => session.channel.get(id)?.name ?? 'a channel';
const routed = (session: Session, id: string, to: string): Repair => ({
  label: `Route ${nameOf(session, id)} to ${nameOf(session, to)}`,
  commands: [{ do: 'channels.route', ids: [id], to }]
});
const flagged = (session: Session, id: string, on: boolean): Repair => ({
  label: on ? `Make ${nameOf(session, id)} a stem` : `${nameOf(session, id)} is no stem`,
  commands: [{ do: 'stems.set', ids: [id], on }]
});
const sendOff = (session: Session, { from, to }: Pick<Edge, 'from' | 'to'>): Repair => ({
  label: `Switch the send off`,
  commands: [{ do: 'sends.set', sends: [{ source: from, target: to, on: false }] }],
  note: `What ${nameOf(session, from)} sends to ${nameOf(session, to)} is no longer heard.`
});

/** A copy of a return for each of these stems from inside which something is sent to it; null where there is none. */
function twinned(session: Session, id: string, among: readonly string[], fresh: () => string): Repair | null {
  if (session.channel.get(id)?.kind !== 'return') return null;
  const senders = new Set(rowsBy(session, 'send', 'targetId', id).map(({ sourceId }) => sourceId));
  const buses = among.filter((bus) => {
    const inside = branchOf(session, bus);
    return !inside.includes(id) && inside.some((each) => each !== bus && senders.has(each));
  });
  if (buses.length === 0) return null;
  return {
    label: `Twin ${nameOf(session, id)} for ${buses.map((bus) => nameOf(session, bus)).join(', ')}`,
    commands: [{ do: 'returns.twin', id, twins: buses.map((bus) => ({ id: fresh(), bus })) }],
    twins: { id, buses }
  };
}

function entering(session: Session, { edge: { from } }: Flaw, fresh: () => string): Repair[] {
  const channel = session.channel.get(from)!;
  if (channel.stem) return [routed(session, from, MIX)];
  const stems = stemsOf(session).map(({ id }) => id);
  const twin = twinned(session, from, stems, fresh);
  const own: Repair[] =
    channel.kind === 'bus'
      ? [
          {
            label: `Make ${channel.name} a stem`,
            commands: [
              ...(channel.outputId === MIX ? [] : [{ do: 'channels.route' as const, ids: [from], to: MIX }]),
              {
                do: 'stems.set',
                ids: [from],
                on: true,
                common: !branchOf(session, from).some((id) => session.channel.get(id)!.kind === 'track')
              }
            ]
          }
        ]
      : [ownStem(channel.name, from, channel.kind === 'return', fresh())];
  // Into the one stem that everything which is sent to it comes from, or that holds most of its family.
  const senders = rowsBy(session, 'send', 'targetId', from).map(({ sourceId }) => homeOf(session, sourceId, new Set(stems)));
  const only =
    channel.kind === 'return' && senders.length && senders.every((home) => home !== null && home === senders[0]) ? senders[0] : null;
  const into = only ?? (channel.kind === 'track' ? familyStem(session, from, stems) : null);
  return [...(into ? [routed(session, from, into)] : twin ? [twin] : []), ...own];
}

const ownStem = (name: string, member: string, common: boolean, id: string): Repair => ({
  label: `A stem of its own for ${name}`,
  commands: [
    { do: 'buses.add', id, name: name.toUpperCase(), members: [member] },
    { do: 'stems.set', ids: [id], on: true, common }
  ]
});

/** The one stem in which tracks of the same role or colour stand, or null. */
function familyStem(session: Session, id: string, stems: readonly string[]): string | null {
  const { role, colour } = session.channel.get(id)!;
  const isStem = new Set(stems);
  const homes = new Set<string>();
  for (const channel of session.channel.values()) {
    if (channel.id === id || channel.kind !== 'track' || !(role ? channel.role === role : channel.colour === colour)) continue;
    const home = homeOf(session, channel.id, isStem);
    if (home !== null) homes.add(home);
  }
  return homes.size === 1 ? [...homes][0] : null;
}

function crossing(session: Session, { path, stems: [first, second] }: Flaw): Repair[] {
  const [, next] = path;
  // The stem itself goes on by its main output, or by a send.
  const away = session.channel.get(first)!.outputId === next;
  return [
    away ? routed(session, first, MIX) : sendOff(session, { from: first, to: next }),
    flagged(session, first, false),
    flagged(session, second, false)
  ];
}

function splitting(session: Session, { edge, path, stems: [home, other], tracks }: Flaw, fresh: () => string): Repair[] {
  const shared = path.find((id) => session.channel.get(id)?.kind === 'return');
  const twin = shared ? twinned(session, shared, [home], fresh) : null;
  const common: Repair = {
    label: `${nameOf(session, other)} is common to all`,
    commands: [{ do: 'stems.set', ids: [other], on: true, common: true }],
    note: `${nameOf(session, other)} is then named in the delivery as a stem that several share.`
  };
  const off: Repair[] =
    !shared && edge.via === 'send'
      ? [
          {
            label: 'Switch the sends off',
            commands: [{ do: 'sends.set', sends: tracks.map((source) => ({ source, target: edge.to, on: false })) }],
            note: `What they send to ${nameOf(session, edge.to)} is no longer heard.`
          }
        ]
      : [];
  return [...(twin ? [twin] : []), common, ...off];
}
