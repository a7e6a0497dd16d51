// The outbox against every answer a server can give, in any order with news of others: nothing acknowledged is lost, nothing is done
// twice, and in the end the page shows what the server has. No browser, no clock, no network.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyCommand, groupedDesk, smallDesk } from '../../tests/oracle/anyCommand.ts';
import { copy, NOTHING, page } from '../../tests/oracle/outboxPage.ts';
import { carryOut } from '../../tests/oracle/rig.ts';
import { CODES, type Code } from '../codes.ts';
import type { Command } from '../commands/index.ts';
import { planBatch } from '../commands/plan.ts';
import { refuse, type Result } from '../result.ts';
import { commit, encodeChanges } from '../session/changes.ts';
import type { Session } from '../session/entities.ts';
import { encodeSession } from '../session/tables.ts';
import { outlookOf, TRIES, type Effect, type Event } from './outbox.ts';
import { fateOf, type Answer, type Batch, type Done } from './wire.ts';

/** A server that plans with the same core and remembers batch ids. */
function server(session: Session) {
  const log: Done[] = [];
  const history = () => ({ undo: log.length ? { id: log.at(-1)!.id, label: 'last' } : null, redo: null });
  const carry = ({ id, commands }: Pick<Batch, 'id' | 'commands'>, base: number): Result<Answer> => {
    const missed = log.slice(base);
    if (log.some((done) => done.id === id)) return { ok: true, value: { revision: log.length, missed, changes: [], history: history() } };
    const planned = planBatch(session, commands);
    if (!planned.ok) return planned;
    commit(session, planned.value.changes);
    const changes = JSON.parse(JSON.stringify(encodeChanges(planned.value.changes))) as Done['changes'];
    log.push({ revision: log.length + 1, id, changes });
    return { ok: true, value: { revision: log.length, missed, changes, history: history() } };
  };
  return { session, log, carry, history };
}

const fader = (level: number, id = 'a'): Command => ({ do: 'faders.set', levels: [{ id, level }] });
const acted = (id: string, command: Command, gesture: string | null = null): Event => ({ is: 'acted', id, commands: [command], gesture });
const sorted = (session: Session) =>
  Object.entries(encodeSession(session)).map(([table, rows]) => [
    table,
    rows.map((row) => JSON.stringify(Object.entries(row).sort())).sort()
  ]);

describe('the outbox, step by step', () => {
  it('shows a move at once and settles without a stir where the server did just that', () => {
    const desk = smallDesk();
    const [here, there] = [page(desk), server(copy(desk))];
    here.tell(acted('1', fader(-6)));
    expect(here.session.channel.get('a')!.faderDb).toBe(-6);
    expect(outlookOf(here.outbox()).undo?.label).toContain('−6.0 dB');
    here.tell({ is: 'due' });
    here.tell({ is: 'due' });
    expect(here.out).toHaveLength(1);
    const { effects } = here.tell({ is: 'answered', id: '1', answer: there.carry(here.out[0].batch, here.out[0].base) });
    expect(effects.map((effect) => effect.do)).toEqual(['keep']);
    expect(here.outbox()).toMatchObject({ revision: 1, queue: [], sent: false, known: { undo: { id: '1' } } });
  });

  it('sends the moves of a drag that wait as one, and never more than one batch at a time', () => {
    const here = page(smallDesk());
    here.tell(acted('0', fader(0.5), 'drag'));
    here.tell({ is: 'due' });
    for (let i = 1; i <= 20; i++) here.tell(acted(String(i), fader(-i), 'drag'));
    here.tell(acted('inf', fader(-Infinity), 'drag'));
    expect(here.outbox().queue.map(({ commands }) => commands.length)).toEqual([1, 21]);
    here.tell({ is: 'due' });
    expect(here.out).toHaveLength(1);
    // −∞ has to travel as a word.
    here.tell({ is: 'answered', id: '0', answer: refuse('too-loud', 'No.') });
    expect(here.out[1].batch.commands.at(-1)).toEqual({ do: 'faders.set', levels: [{ id: 'a', level: '-inf' }] });
  });

  it.each(Object.keys(CODES) as Code[])('on “%s” waits, tries again, sets aside or gives up, and the next goes on', (code) => {
    const desk = smallDesk();
    const [here, there] = [page(desk), server(copy(desk))];
    here.tell(acted('1', fader(-6)));
    here.tell(acted('2', fader(-7, 'b')));
    here.tell({ is: 'due' });
    const fate = fateOf({ code, message: '' });
    const patience = fate === 'try again' ? 10 : fate === 'try a few times' ? TRIES - 1 : 0;
    for (let i = 0; i < patience; i++) {
      const { effects } = here.tell({ is: 'answered', id: '1', answer: refuse(code, 'Not now.') });
      expect(effects.at(-1)).toEqual({ do: 'wait' });
      expect(here.outbox()).toMatchObject({ away: true, sent: false });
      expect(here.session.channel.get('a')!.faderDb).toBe(-6);
      here.tell({ is: 'due' });
      expect(here.out.at(-1)!.batch.id).toBe('1');
    }
    // Said once, however often it is tried.
    expect(here.said.filter((text) => text.includes('login'))).toHaveLength(Number(code === 'passphrase'));
    const last = here.out.at(-1)!;
    here.tell({ is: 'answered', id: '1', answer: fate === 'try again' ? there.carry(last.batch, last.base) : refuse(code, 'Not this.') });
    expect(here.outbox().away).toBe(false);
    expect(here.out.at(-1)!.batch.id).toBe('2');
    expect(here.outbox().aside.map(({ why }) => why)).toEqual(fate === 'set aside' || fate === 'try a few times' ? ['Not this.'] : []);
    expect(here.said.some((text) => text.startsWith('Not done'))).toBe(fate === 'refused');
    expect(here.session.channel.get('a')!.faderDb).toBe(fate === 'try again' ? -6 : 0);
    expect(here.session.channel.get('b')!.faderDb).toBe(-7);
  });

  it('tries again what was set aside, or forgets it, and keeps it where it cannot be', () => {
    const here = page(smallDesk());
    here.tell(acted('1', { do: 'channels.rename', names: [{ id: 'a', name: 'New' }] }));
    here.tell({ is: 'due' });
    here.tell({ is: 'answered', id: '1', answer: refuse('disk-full', 'Full.') });
    expect(here.session.channel.get('a')!.name).not.toBe('New');
    carryOut(here.session, { do: 'channels.remove', ids: ['a'] });
    expect(here.tell({ is: 'retried', aside: '1', id: '2' }).refused).toBe(true);
    expect(here.outbox().aside).toHaveLength(1);
    expect(here.tell({ is: 'retried', aside: 'gone', id: '3' }).effects).toEqual([]);
    here.tell({ is: 'forgotten', aside: '1' });
    expect(here.outbox().aside).toEqual([]);
  });

  it('begins again where too much was missed, by answer, by news or by undo', () => {
    const done = { revision: 1, changes: [], missed: null, history: NOTHING };
    const here = page(smallDesk());
    here.tell(acted('1', fader(-6)));
    here.tell({ is: 'due' });
    here.tell({ is: 'answered', id: '1', answer: { ok: true, value: done } });
    here.tell({ is: 'turned', answer: done });
    here.tell({ is: 'heard', news: { revision: 9, id: 'x', changes: [], history: NOTHING } });
    expect(here.resets()).toBe(3);
    // What was heard already is no news.
    expect(here.tell({ is: 'heard', news: { revision: 0, id: 'x', changes: [], history: NOTHING } }).effects).toEqual([]);
  });
});

/** What may happen next between two pages and a server whose line is bad. */
const happening = fc.record({
  what: fc.constantFrom(
    'act',
    'act',
    'act',
    'others',
    'arrive',
    'arrive',
    'carry',
    'carry',
    'lose answer',
    'lose batch',
    'refuse',
    'news',
    'news',
    'adopt'
  ),
  command: anyCommand(),
  code: fc.constantFrom(...(Object.keys(CODES) as Code[])),
  pick: fc.nat(3)
});

describe('the outbox, whatever happens', () => {
  it('comes to what the server has; each batch was done once, refused in words, or is kept aside', () => {
    let [sent, aside, rebased] = [0, 0, 0];
    fc.assert(
      fc.property(fc.array(happening, { minLength: 5, maxLength: 40 }), (events) => {
        const desk = groupedDesk();
        const [here, there] = [page(desk), server(copy(desk))];
        /** Batches on their way, and answers and news on theirs; news keep their order. */
        const batches: (Extract<Effect, { do: 'send' }> & { reply?: Result<Answer> })[] = [];
        const news: { upTo: number } = { upTo: 0 };
        const mine = new Set<string>();
        const tell = (event: Event) => {
          const before = here.out.length;
          rebased += here.tell(event).effects.filter((effect) => effect.do === 'wake').length > 1 ? 1 : 0;
          batches.push(...here.out.slice(before));
        };
        const hear = () => {
          const done = there.log[news.upTo];
          if (!done) return;
          news.upTo++;
          tell({ is: 'heard', news: { ...done, history: there.history() } });
        };
        const answer = (reply: (batch: Batch, base: number) => Result<Answer>) => {
          const next = batches.shift();
          if (next) tell({ is: 'answered', id: next.batch.id, answer: next.reply ?? reply(next.batch, next.base) });
        };
        let serial = 0;
        for (const { what, command, code } of events) {
          if (what === 'act' || what === 'adopt') {
            const id = `p${++serial}`;
            const queued = new Set(here.outbox().queue.map((each) => each.id));
            if (what === 'act') tell(acted(id, command));
            else tell({ is: 'adopted', batches: [{ id, gesture: null, commands: [command] }] });
            if (here.outbox().queue.some((each) => each.id === id && !queued.has(id))) mine.add(id);
            tell({ is: 'due' });
          } else if (what === 'others') there.carry({ id: `o${++serial}`, commands: [command] }, 0);
          else if (what === 'arrive') {
            // Done, and its news may overtake its answer.
            const next = batches.find(({ reply }) => !reply);
            if (next) next.reply = there.carry(next.batch, next.base);
          } else if (what === 'carry') answer(there.carry);
          else if (what === 'lose answer') answer((batch, base) => (there.carry(batch, base), refuse('offline', 'Gone.')));
          else if (what === 'lose batch') answer(() => refuse('offline', 'Gone.'));
          else if (what === 'refuse') answer(() => refuse(code, 'No.'));
          else {
            hear();
            tell({ is: 'due' });
          }
        }
        // The line becomes good: all that is still to come comes.
        for (let i = 0; i < 400 && (here.outbox().queue.length || news.upTo < there.log.length); i++) {
          tell({ is: 'due' });
          answer(there.carry);
          hear();
        }
        expect(here.outbox()).toMatchObject({ queue: [], revision: there.log.length });
        expect(sorted(here.session)).toEqual(sorted(there.session));
        const done = there.log.map(({ id }) => id);
        expect(new Set(done).size).toBe(done.length);
        const kept = new Set(here.outbox().aside.map(({ id }) => id));
        const lost = [...mine].filter((id) => !done.includes(id) && !kept.has(id)).length;
        expect(here.said.filter((text) => text.startsWith('Not done')).length).toBeGreaterThanOrEqual(lost);
        expect(here.resets()).toBe(0);
        sent += here.out.length;
        aside += kept.size;
      }),
      { numRuns: Number(process.env.RUNS ?? 200), seed: 5 }
    );
    // That it did what it is for.
    expect(sent).toBeGreaterThan(200);
    expect(aside).toBeGreaterThan(10);
    expect(rebased).toBeGreaterThan(20);
  });
});
