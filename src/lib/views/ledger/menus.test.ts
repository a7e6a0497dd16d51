// Menus and commands of the Ledger and the Roster: whatever they offer for whatever is selected can be done as one named step, or is
// refused for a reason of the session's, and leaves a session that holds together.
import { afterEach, expect, it, vi } from 'vitest';
import type { Command } from '$core/commands/index';
import { checkSession } from '$core/session/check';
import type { Channel } from '$core/session/entities';
import { decodeSession, encodeSession } from '$core/session/tables';
import { processors } from '$core/processors/index';
import { finished } from '$demo/finished';
import type { MenuEntry } from '$lib/ui/Menu.svelte';
import type { KeyedCommand } from '../rowKeys';
import { pageDesk } from '../../../../tests/oracle/page';
import { carryOut, emptyDesk, RATE, trackCommand } from '../../../../tests/oracle/rig';
import { rosterActions } from '../roster/actions';
import { rosterCommands } from '../roster/commands';
import { ledgerActions } from './actions';
import { ledgerCommands } from './commands';
import { columnMenu, crossMenu, rowMenu } from './menus';

const ids = Array.from({ length: 24 }, (_, i) => `t${i + 1}`);
const document = encodeSession(
  carryOut(
    emptyDesk(),
    trackCommand(ids.map((id) => ({ id, width: id === 't24' ? 2 : 1, frames: 48 * RATE }))),
    ...finished(ids),
    { do: 'hides.set', ids: ['t1'], on: true } as Command,
    { do: 'columns.hide', ids: ['glow'], on: true } as Command
  )
);
/** One channel of every sort that a row can be. */
const SORTS = ['t2', 't24', 't1', 'drums', 'room-drums', 'press', 'mix', 'knit', 'final', 'singer', 'pulse', 'click', 'vca-rhythm'];
/** What a person is told where a view asked the core for something malformed: a fault of ours. */
const MALFORMED = /^\w+\.\w+: /;

afterEach(() => vi.unstubAllGlobals());

/** A desk with `selected`, and every hand a view would lend. */
function hands(selected: readonly string[]) {
  const { desk, said } = pageDesk(decodeSession(document));
  desk.selection.set(selected, selected.at(-1) ?? null);
  const actions = ledgerActions(desk);
  const asked: string[] = [];
  const note = (what: string) => () => void asked.push(what);
  const order = () => [...desk.store.session.channel.keys()];
  const lent = {
    ...{ pick: note('pick'), name: note('name'), ask: note('ask'), rename: note('rename'), askRemoval: note('removal') },
    ...{ copy: note('copy'), paste: note('paste'), level: note('level'), open: note('open'), opened: false },
    ...{ importFiles: note('import'), order, folded: () => false, fold: note('fold'), stepTo: note('step'), toggleSheet: note('sheet') }
  };
  return { desk, said, actions, lent, asked };
}
type Hands = ReturnType<typeof hands>;
type Offer = Pick<MenuEntry, 'label' | 'off' | 'run'>;

/** With what entries open in their place. */
const opened = (entries: readonly MenuEntry[]): MenuEntry[] => entries.flatMap((entry) => entry.more ?? [entry]);

/** Runs every offer on a desk of its own; what was malformed, broke the session, or had no name to undo it by. */
async function wrongOf(
  selected: readonly string[],
  offers: (given: Hands) => readonly Offer[]
): Promise<{ wrong: string[]; done: number }> {
  const wrong: string[] = [];
  let done = 0;
  const count = offers(hands(selected)).length;
  for (let i = 0; i < count; i++) {
    const given = hands(selected);
    const offer = offers(given)[i];
    if (offer.off) continue;
    const { store } = given.desk;
    let changed = false;
    store.onChanges(() => (changed = true));
    const title = `${selected.join('+')}: ${offer.label}`;
    offer.run();
    done++;
    if (MALFORMED.test(given.said())) wrong.push(`${title}: ${given.said()}`);
    const held = checkSession(store.session);
    if (!held.ok) wrong.push(`${title} left: ${held.error.message}`);
    if (!changed) continue;
    // What it did is one step at the server, and named.
    await vi.waitFor(() => expect(store.saving).toBe('saved'), { interval: 1, timeout: 120_000 });
    if (!store.history.undo?.label) wrong.push(`${title} has no name to undo`);
  }
  return { wrong, done };
}

it('every entry of a row’s menu can be done, for one row of each sort and for several together', async () => {
  const all: string[] = [];
  for (const selected of [...SORTS.map((id) => [id]), ['room-drums', 'room-pans'], SORTS]) {
    const { wrong, done } = await wrongOf(selected, ({ desk, actions, lent }) => opened(rowMenu(desk, actions, lent, selected.at(-1)!)));
    all.push(...wrong);
    expect(done).toBeGreaterThan(9);
  }
  expect(all).toEqual([]);
});

it('every entry of a crosspoint’s and a column’s menu can be done', async () => {
  const all: string[] = [];
  for (const [source, target] of [
    ['t2', 'room-drums'],
    ['echo', 'plate'],
    ['t16', 'glow'],
    ['t2', 'singer']
  ])
    for (const cells of [[{ source, target }], ['t4', 't5', source].map((id) => ({ source: id, target }))])
      all.push(
        ...(
          await wrongOf([source], ({ desk, actions, lent }) =>
            crossMenu(
              desk,
              actions,
              cells.filter((cell) => cell.source !== cell.target),
              { source, target },
              lent
            )
          )
        ).wrong
      );
  for (const column of ['room-drums', 'press', 'echo', 'singer'])
    all.push(...(await wrongOf(['t2', 't3'], ({ desk, actions, lent }) => columnMenu(desk, actions, column, lent))).wrong);
  expect(all).toEqual([]);
});

const offered = (list: readonly KeyedCommand[]): Offer[] =>
  list.map(({ title, run, when }) => ({ label: title, run: run as () => void, off: when ? !when() : false }));

it('every command of the Ledger’s palette can be done where it is offered', async () => {
  const all: string[] = [];
  const commands = ({ desk, actions, lent }: Hands) => offered(ledgerCommands(desk, actions, lent).list);
  for (const selected of [[], ['t2'], ['mix'], ['final'], ['singer'], ['t24', 'drums', 'room-drums', 'pulse']]) {
    const { wrong } = await wrongOf(selected, commands);
    all.push(...wrong);
  }
  expect(all).toEqual([]);
  const titles = commands(hands(['t2'])).map(({ label }) => label);
  expect(new Set(titles).size).toBe(titles.length);
  for (const { title } of Object.values(processors)) expect(titles).toContain(`Add ${title}`);
}, 60_000);

it('every command of the Roster can be done where it is offered', async () => {
  const all: string[] = [];
  const commands = ({ desk, asked, lent }: Hands) => {
    const audition = { id: null, at: 0, play: () => Promise.resolve(), stop: () => undefined } as never;
    const note = (what: unknown) => void asked.push(String(what));
    const more = { hidden: () => 1, waiting: () => 1, audition, open: note, choose: note, find: lent.copy, rename: lent.rename };
    const actions = rosterActions(desk, lent.order);
    return offered(rosterCommands(desk, actions, { ...more, order: lent.order, stepTo: note })).filter(
      ({ label }) => label !== 'Track sheet to a file'
    );
  };
  for (const selected of [[], ['t2'], ['t24'], ['t2', 't3'], ['t2', 't24', 'drums'], ['mix']])
    all.push(...(await wrongOf(selected, commands)).wrong);
  expect(all).toEqual([]);
});

it('a gradient, a common trim and pairing act on what is selected, in its order on screen', async () => {
  const { desk, said } = pageDesk(decodeSession(document));
  const { session } = desk.store;
  const of = <K extends keyof Channel>(field: K, ...list: string[]) => list.map((id) => session.channel.get(id)![field]);
  const actions = rosterActions(desk, () => ['t5', 't4', 't3', 't2']);
  desk.selection.set(['t2', 't3', 't4', 't5'], 't2');
  actions.gradient(0, 6);
  const colours = of('colour', 't5', 't4', 't3', 't2');
  expect([colours[0], colours[3]]).toEqual([0, 6]);
  expect(colours).toEqual(colours.toSorted((a, b) => a - b));
  expect(of('byHand', 't2')[0]).toContain('colour');
  desk.selection.set(['t10', 't11'], 't10');
  // Double seconds L and R, selected either way round, become one stereo track whose left is left.
  actions.pair();
  expect(session.channel.has('t11')).toBe(false);
  expect(of('width', 't10')).toEqual([2]);
  expect(of('name', 't10')).toEqual(['Double seconds']);
  actions.pair();
  expect(said()).toBe('Select two mono tracks to pair them.');
  actions.split();
  expect(of('width', 't10')).toEqual([1]);
  await vi.waitFor(() => expect(desk.store.saving).toBe('saved'), { timeout: 120_000 });
});
