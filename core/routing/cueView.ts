// What a player sees of his cue: its name and level, and what is sent into it.
import { settingsOf, type Session } from '../session/entities.ts';
import { inOrder } from '../session/select.ts';
import { mixChain } from './graph.ts';

/** A level as JSON can carry it: −∞ is "-inf". */
export type WireDb = number | '-inf';
export type CueView = {
  readonly cue: string;
  readonly session: string;
  /** Level of the whole cue, dB. */
  readonly level: WireDb;
  readonly sends: readonly {
    readonly source: string;
    readonly name: string;
    readonly colour: number;
    readonly level: WireDb;
    readonly on: boolean;
  }[];
};

const wire = (db: number): WireDb => (db === -Infinity ? '-inf' : db);

/** In the order of the session; null where there is no such cue. */
export function cueView(session: Session, cueId: string): CueView | null {
  const cue = session.channel.get(cueId);
  if (cue?.kind !== 'cue') return null;
  const chain = new Set(mixChain(session).map(({ id }) => id));
  return {
    cue: cue.name,
    session: settingsOf(session).name,
    level: wire(cue.faderDb),
    sends: inOrder(session).flatMap(({ id, name, colour }) => {
      const send = session.send.get(`${id}\n${cueId}`);
      return send && !chain.has(id) ? [{ source: id, name, colour, level: wire(send.levelDb), on: send.on }] : [];
    })
  };
}
