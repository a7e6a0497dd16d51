// The outbox of a page: what it did and the server has not acknowledged yet. A state and the steps from one to the next, without clock,
// network or storage: whoever drives it carries out the effects and tells what came of them. The session is changed in place by commits.
import { coalesced } from '../commands/coalesce.ts';
import { planBatch } from '../commands/plan.ts';
import type { Command } from '../commands/index.ts';
import type { Result } from '../result.ts';
import { commit, decodeChanges, same, type Change } from '../session/changes.ts';
import type { Session } from '../session/entities.ts';
import type { Outlook } from '../session/history.ts';
import { fateOf, forWire, type Answer, type Batch, type Done, type News } from './wire.ts';

/** A batch that is shown and not acknowledged. */
export type Pending = Batch & {
  readonly label: string;
  readonly changes: readonly Change[];
  readonly undo: readonly Change[];
};
/** A batch that the server could not take: what it was called, and why. */
export type SetAside = { readonly id: string; readonly label: string; readonly why: string; readonly commands: readonly Command[] };

export type Outbox = {
  /** The last revision of the server that is shown. */
  readonly revision: number;
  /** What would be undone and redone as the server has it. */
  readonly known: Outlook;
  /** First in, first out. */
  readonly queue: readonly Pending[];
  /** Whether the first of the queue is under way. */
  readonly sent: boolean;
  /** How often the server failed at the first of the queue. */
  readonly failures: number;
  /** Whether nobody takes anything at present. */
  readonly away: boolean;
  /** Whether the person was told that the login has ended. */
  readonly locked: boolean;
  readonly aside: readonly SetAside[];
};

export type Event =
  | { readonly is: 'acted'; readonly id: string; readonly commands: readonly Command[]; readonly gesture: string | null }
  /** The time has come to send. */
  | { readonly is: 'due' }
  | { readonly is: 'answered'; readonly id: string; readonly answer: Result<Answer> }
  | { readonly is: 'heard'; readonly news: News }
  /** Undo or redo was carried out. */
  | { readonly is: 'turned'; readonly answer: Answer }
  /** Batches of pages that are gone. */
  | { readonly is: 'adopted'; readonly batches: readonly Batch[] }
  | { readonly is: 'retried'; readonly aside: string; readonly id: string }
  | { readonly is: 'forgotten'; readonly aside: string };

/** What is to be done about a step, in this order. */
export type Effect =
  /** These changes were committed: whoever shows the session is to be woken. */
  | { readonly do: 'wake'; readonly changes: readonly Change[] }
  | { readonly do: 'send'; readonly batch: Batch; readonly base: number }
  /** Send again after a while. */
  | { readonly do: 'wait' }
  | { readonly do: 'keep' }
  | { readonly do: 'keep aside' }
  | { readonly do: 'say'; readonly text: string }
  /** Too far behind to catch up: begin again. What is not acknowledged is kept. */
  | { readonly do: 'reset' };

export type Step = { readonly outbox: Outbox; readonly effects: readonly Effect[]; readonly refused: boolean };

/** How often a batch that the server failed at is sent before it is set aside. */
export const TRIES = 3;

export const emptyOutbox = (revision: number, known: Outlook, aside: readonly SetAside[] = []): Outbox => ({
  ...{ revision, known, queue: [], sent: false, failures: 0, away: false, locked: false, aside }
});

/** What is shown as the next to undo: the last move of this page, which the server may not have yet. */
export function outlookOf({ queue, known }: Outbox): Outlook {
  const last = queue.at(-1);
  return last ? { undo: { id: '', label: last.label }, redo: null } : known;
}

/** The state after an event. `session` is what is shown, and is changed with it. */
export function step(session: Session, outbox: Outbox, event: Event): Step {
  const made = maker(session, outbox);
  switch (event.is) {
    case 'acted':
      made.act(event.id, event.commands, event.gesture);
      break;
    case 'due':
      made.send();
      break;
    case 'answered':
      made.answer(event.id, event.answer);
      break;
    case 'heard':
      made.hear(event.news);
      break;
    case 'turned':
      made.turn(event.answer);
      break;
    case 'adopted':
      made.adopt(event.batches);
      break;
    case 'retried':
      made.retry(event.aside, event.id);
      break;
    case 'forgotten':
      made.set({ aside: outbox.aside.filter(({ id }) => id !== event.aside) });
      made.note({ do: 'keep aside' });
      break;
  }
  return made.done();
}

function maker(session: Session, before: Outbox) {
  let outbox = before;
  let refused = false;
  const effects: Effect[] = [];
  const note = (effect: Effect) => void effects.push(effect);
  const set = (fields: Partial<Outbox>) => (outbox = { ...outbox, ...fields });
  const say = (text: string) => note({ do: 'say', text });

  const take = (changes: readonly Change[]): Change[] => {
    const undo = commit(session, changes);
    if (changes.length) note({ do: 'wake', changes });
    return undo;
  };
  const queue = (next: readonly Pending[]) => {
    if (next[0]?.id !== outbox.queue[0]?.id) set({ sent: false, failures: 0 });
    set({ queue: next });
    note({ do: 'keep' });
  };

  /** Takes back all that is not acknowledged, applies what the server says, and plans the rest upon it; `settled` leaves the queue. */
  const rebase = (changes: readonly Change[], settled: string | null) => {
    for (const pending of [...outbox.queue].reverse()) take(pending.undo);
    take(changes);
    queue(
      outbox.queue
        .filter(({ id }) => id !== settled)
        .map((pending) => {
          const planned = planBatch(session, pending.commands);
          const again = planned.ok ? planned.value.changes : [];
          return { ...pending, changes: again, undo: take(again) };
        })
    );
  };

  /** What the server did to this page's first batch, or to anything: where it is what is shown already nothing moves. */
  const follow = (changes: readonly Change[], own: Pending | null) => {
    if (own && own === outbox.queue[0] && alike(changes, own.changes)) queue(outbox.queue.slice(1));
    else rebase(changes, own?.id ?? null);
  };
  const since = (list: readonly Done[]) =>
    list.filter(({ revision }) => revision > outbox.revision).flatMap(({ changes }) => decodeChanges(changes));

  const send = () => {
    const [first] = outbox.queue;
    if (!first || outbox.sent) return;
    set({ sent: true });
    note({
      do: 'send',
      base: outbox.revision,
      batch: { id: first.id, gesture: first.gesture, commands: forWire(first.commands) }
    });
  };

  const acknowledged = (first: Pending, answer: Answer) => {
    if (answer.missed === null) return note({ do: 'reset' });
    const missed = since(answer.missed);
    const own = answer.revision > outbox.revision ? decodeChanges(answer.changes) : [];
    set({ revision: Math.max(outbox.revision, answer.revision), known: answer.history });
    follow([...missed, ...own], first);
  };

  const setAside = ({ id, label, commands }: Pending, why: string) => {
    set({ aside: [...outbox.aside, { id, label, why, commands }] });
    note({ do: 'keep aside' });
    say(`Not saved: ${label}. ${why} It is set aside.`);
  };

  const answer = (id: string, given: Result<Answer>) => {
    const [first] = outbox.queue;
    // News of the batch may have come before the answer to it.
    if (first?.id !== id) return send();
    set({ sent: false });
    const fate = given.ok ? null : fateOf(given.error);
    const failures = outbox.failures + Number(fate === 'try a few times');
    if (fate === 'try again' || (fate === 'try a few times' && failures < TRIES)) {
      const locked = !given.ok && given.error.code === 'passphrase';
      if (locked && !outbox.locked) say('Your login has ended. Enter the passphrase in another tab; what is not saved yet waits here.');
      set({ failures, away: true, locked: outbox.locked || locked });
      return note({ do: 'wait' });
    }
    set({ away: false, locked: false });
    if (given.ok) acknowledged(first, given.value);
    else {
      rebase([], id);
      if (fate === 'refused') say(`Not done: ${given.error.message}`);
      else setAside(first, given.error.message);
    }
    send();
  };

  const act = (id: string, commands: readonly Command[], gesture: string | null): boolean => {
    const planned = planBatch(session, commands);
    if (!planned.ok) {
      say(planned.error.message);
      refused = true;
      return false;
    }
    const { changes, label } = planned.value;
    if (changes.length === 0) return true;
    const undo = take(changes);
    const last = outbox.queue.at(-1);
    // Moves of a drag that wait behind the batch under way travel as one.
    const joins = gesture !== null && last?.gesture === gesture && outbox.queue.length > 1;
    const one: Pending = joins
      ? {
          ...last,
          label,
          commands: coalesced(last.commands, commands),
          changes: [...last.changes, ...changes],
          undo: [...undo, ...last.undo]
        }
      : { id, gesture, label, commands: [...commands], changes, undo };
    queue(joins ? [...outbox.queue.slice(0, -1), one] : [...outbox.queue, one]);
    return true;
  };

  return {
    set,
    note,
    send,
    answer,
    act,
    hear: (news: News) => {
      if (news.revision <= outbox.revision) return;
      if (news.revision > outbox.revision + 1) return note({ do: 'reset' });
      set({ revision: news.revision, known: news.history });
      follow(decodeChanges(news.changes), outbox.queue.find(({ id }) => id === news.id) ?? null);
    },
    turn: (answered: Answer) => {
      if (answered.missed === null) return note({ do: 'reset' });
      const others = since(answered.missed);
      const own = answered.revision > outbox.revision ? decodeChanges(answered.changes) : [];
      const moved = answered.revision > outbox.revision;
      set({ revision: Math.max(outbox.revision, answered.revision), known: answered.history });
      if (moved) rebase([...others, ...own], null);
    },
    adopt: (batches: readonly Batch[]) => {
      const adopted = batches.map((batch): Pending => {
        const planned = planBatch(session, batch.commands);
        const { changes, label } = planned.ok ? planned.value : { changes: [], label: 'Moves of an earlier page' };
        return { ...batch, label, changes, undo: take(changes) };
      });
      queue([...outbox.queue, ...adopted]);
    },
    retry: (asideId: string, id: string) => {
      const found = outbox.aside.find((each) => each.id === asideId);
      if (!found || !act(id, forWire(found.commands), null)) return;
      set({ aside: outbox.aside.filter((each) => each !== found) });
      note({ do: 'keep aside' });
    },
    done: (): Step => ({ outbox, effects, refused })
  };
}

const alike = (a: readonly Change[], b: readonly Change[]): boolean => {
  const told = (changes: readonly Change[]) => changes.map(({ table, key, after }) => ({ table, key, after }));
  return same(told(a), told(b));
};
