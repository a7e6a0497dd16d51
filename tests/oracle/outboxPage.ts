// A page without browser, clock or network: its session, its outbox, and what came of its steps.
import { emptyOutbox, step, type Effect, type Event, type Outbox } from '../../core/sync/outbox.ts';
import type { Session } from '../../core/session/entities.ts';
import { decodeSession, encodeSession } from '../../core/session/tables.ts';

export const copy = (session: Session) => decodeSession(encodeSession(session));
export const NOTHING = { undo: null, redo: null };

export function page(start: Session) {
  const session = copy(start);
  let outbox: Outbox = emptyOutbox(0, NOTHING);
  const said: string[] = [];
  const out: Extract<Effect, { do: 'send' }>[] = [];
  let resets = 0;
  const tell = (event: Event) => {
    const next = step(session, outbox, event);
    outbox = next.outbox;
    for (const effect of next.effects) {
      if (effect.do === 'say') said.push(effect.text);
      if (effect.do === 'send') out.push(effect);
      if (effect.do === 'reset') resets++;
    }
    return next;
  };
  return { session, said, out, tell, resets: () => resets, outbox: () => outbox };
}
