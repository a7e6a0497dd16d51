// The open session in the page: commands are applied at once, kept in an outbox, sent one batch at a time; the server's
// changes win.
import { untrack } from 'svelte';
import { commit, decodeChanges, same, type Change, type Fields } from '$core/session/changes';
import type { Command } from '$core/commands/index';
import { sendKey, settingsOf, type Channel, type Insert, type Send, type Session } from '$core/session/entities';
import type { Outlook } from '$core/session/history';
import { planBatch } from '$core/commands/plan';
import { insertsOf } from '$core/session/select';
import { ownedSignal, rowSignal, rowsWoken, woken } from '$core/session/woken';
import { decodeSession, encodeSession, type SessionDocument } from '$core/session/tables';
import { audibility, type Audibility } from '$core/routing/audibility';
import { treeOf, type Tree } from '$core/routing/graph';
import { ask } from './api';
import { fateOf, forgetful, type OutboxKeeper, type SetAside } from './outbox';
import { createSignals } from './signals.svelte';

export type Saving = 'saved' | 'saving' | 'offline';
export type SessionAnswer = { revision: number; document: SessionDocument; history: Outlook };
type Done = { revision: number; id: string; changes: Change[] };
type News = Done & { history: Outlook };
type CommandsAnswer = { revision: number; missed: Done[] | null; changes: Change[]; history: Outlook };
type Pending = {
  readonly id: string;
  readonly gesture: string | null;
  label: string;
  commands: Command[];
  changes: readonly Change[];
  undo: readonly Change[];
};

export type SessionStore = ReturnType<typeof createSessionStore>;

/** How long a move waits for its picture before it is sent. */
const PICTURE_MS = 40;

/** How often a batch that the server failed at is sent before it is set aside, and the time between. */
const TRIES = 3;
const RETRY_MS = 1500;

export function createSessionStore(id: string, answer: SessionAnswer, keeper: OutboxKeeper = forgetful()) {
  const session: Session = decodeSession(answer.document);
  const signals = createSignals();
  const listeners = new Set<(changes: readonly Change[]) => void>();
  const outbox: Pending[] = [];
  let revision = answer.revision;
  let sending = false;
  /** As the server has it; while moves of this page are under way, the last of them is what would be undone. */
  let known = answer.history;
  let history = $state.raw<Outlook>(answer.history);
  let aside = $state.raw<readonly SetAside[]>(keeper.aside());
  /** Whether the browser has no room for what is not saved yet. */
  let unkept = $state(false);
  let saving = $state<Saving>('saved');
  let notice = $state.raw<{ text: string; serial: number } | null>(null);
  let serial = 0;

  /** Commits, wakes the views of the rows touched, and tells the mix worker. */
  const take = (changes: readonly Change[]): Change[] => {
    const undo = commit(session, changes);
    // Each once, however many rows a batch touches.
    for (const signal of rowsWoken(session, changes)) signals.bump(signal);
    const aspects = woken(changes);
    for (const aspect of aspects) signals.bump(aspect);
    for (const listener of listeners) listener(changes);
    return undo;
  };

  const say = (text: string) => (notice = { text, serial: ++serial });

  const lookBack = () => {
    const last = outbox.at(-1);
    history = last ? { undo: { id: '', label: last.label }, redo: null } : known;
  };
  const pause = () => new Promise((resolve) => setTimeout(resolve, RETRY_MS));

  /** Takes a batch out of the way of the others; its content stays until somebody decides. */
  const setAside = ({ id: batchId, label, commands }: Pending, why: string) => {
    aside = [...aside, { id: batchId, label, why, commands }];
    if (!keeper.saveAside(aside)) unkept = true;
    say(`Not saved: ${label}. ${why} It is set aside.`);
  };
  const forgetAside = (batchId: string) => {
    aside = aside.filter((each) => each.id !== batchId);
    keeper.saveAside(aside);
  };
  /** Carries out anew what was set aside; it stays there where that cannot be. */
  const retryAside = (batchId: string) => {
    const found = aside.find((each) => each.id === batchId);
    if (found && act(fromWire(found.commands))) forgetAside(batchId);
  };

  const flush = async (): Promise<void> => {
    if (sending) return;
    sending = true;
    let tries = 0;
    let locked = false;
    saving = 'saving';
    // The picture first: the server works on the same processor. The outbox is kept already.
    await new Promise((resolve) => setTimeout(resolve, PICTURE_MS));
    while (outbox.length) {
      saving = 'saving';
      const batch = outbox[0];
      const { id: batchId, gesture, commands } = batch;
      const reply = await ask<CommandsAnswer>('POST', `/api/sessions/${id}/commands`, {
        base: revision,
        id: batchId,
        gesture,
        commands: forWire(commands)
      });
      const fate = reply.ok ? null : fateOf(reply.error);
      if (fate === 'try again' || (fate === 'try a few times' && ++tries < TRIES)) {
        if (!reply.ok && reply.error.code === 'passphrase' && !locked) {
          say('Your login has ended. Enter the passphrase in another tab; what is not saved yet waits here.');
          locked = true;
        }
        saving = 'offline';
        await pause();
        continue;
      }
      tries = 0;
      // News of the batch may have come before the answer to it.
      if (outbox[0] !== batch) continue;
      if (reply.ok) settle(batch, reply.value);
      else {
        rebase([], batch);
        if (fate === 'refused') say(`Not done: ${reply.error.message}`);
        else setAside(batch, reply.error.message);
      }
    }
    sending = false;
    saving = 'saved';
  };

  const keep = () => {
    const kept = keeper.save(outbox.map(({ id: batchId, gesture, commands }) => ({ id: batchId, gesture, commands })));
    if (!kept && !unkept) say('This browser’s storage is full: keep this page open until all is saved.');
    unkept = !kept;
    lookBack();
  };

  /** Takes an acknowledged batch: where others changed nothing in between, what was shown already is right. */
  const settle = (batch: Pending, answered: CommandsAnswer) => {
    if (answered.missed === null) return reset();
    const missed = answered.missed.filter((done) => done.revision > revision).flatMap((done) => decodeChanges(done.changes));
    const changes = answered.revision > revision ? decodeChanges(answered.changes) : [];
    revision = Math.max(revision, answered.revision);
    known = answered.history;
    if (missed.length === 0 && equal(changes, batch.changes)) {
      outbox.shift();
      keep();
    } else rebase([...missed, ...changes], batch);
  };

  /** Takes back all that is not acknowledged, applies what the server says, and plans the rest upon it. */
  const rebase = (changes: readonly Change[], settled: Pending | null) => {
    for (const pending of [...outbox].reverse()) take(pending.undo);
    take(changes);
    if (settled) outbox.splice(outbox.indexOf(settled), 1);
    for (const pending of outbox) {
      const planned = planBatch(session, pending.commands);
      const again = planned.ok ? planned.value.changes : [];
      Object.assign(pending, { changes: again, undo: take(again) });
    }
    keep();
  };

  /** Too far behind to catch up: the page starts again; what is not acknowledged is kept. */
  const reset = () => location.reload();

  /** What the server says was done, by this page or another. */
  const hear = (news: News) => {
    if (news.revision <= revision) return;
    if (news.revision > revision + 1) return reset();
    revision = news.revision;
    known = news.history;
    const own = outbox.find((pending) => pending.id === news.id) ?? null;
    const changes = decodeChanges(news.changes);
    if (own && own === outbox[0] && equal(changes, own.changes)) {
      outbox.shift();
      keep();
    } else rebase(changes, own);
  };

  /** Listens to what other pages do, and takes up what pages that are gone have left unsent; returns how to stop. */
  const follow = (): (() => void) => {
    const events = new EventSource(`/api/sessions/${id}/events?since=${revision}`);
    events.onmessage = ({ data }) => hear(JSON.parse(data as string) as News);
    events.addEventListener('reset', reset);
    void keeper.adopt().then((left) => {
      for (const batch of left) {
        const planned = planBatch(session, batch.commands);
        const { changes, label } = planned.ok ? planned.value : { changes: [], label: 'Moves of an earlier page' };
        outbox.push({ ...batch, label, commands: [...batch.commands], changes, undo: take(changes) });
      }
      keep();
      void flush();
    });
    return () => events.close();
  };

  /** Carries commands out here and now, and on the server soon. Moves of one gesture are one undo entry. */
  const act = (commands: readonly Command[], gesture: string | null = null): boolean =>
    untrack(() => {
      const planned = planBatch(session, commands);
      if (!planned.ok) {
        say(planned.error.message);
        return false;
      }
      const { changes, label } = planned.value;
      if (changes.length === 0) return true;
      const undo = take(changes);
      const last = outbox.at(-1);
      // Moves of a drag that wait behind the batch in flight travel as one.
      if (gesture !== null && last?.gesture === gesture && outbox.length > 1) {
        last.commands = [...last.commands, ...commands];
        Object.assign(last, { label, changes: [...last.changes, ...changes], undo: [...undo, ...last.undo] });
      } else outbox.push({ id: crypto.randomUUID(), gesture, label, commands: [...commands], changes, undo });
      keep();
      void flush();
      return true;
    });

  const step = async (direction: 'undo' | 'redo') => {
    while (sending && saving !== 'offline') await new Promise((resolve) => setTimeout(resolve, 5));
    if (sending) return void say('The server does not answer. What you did waits here; undoing it has to wait as well.');
    const entry = history[direction];
    if (!entry) return;
    saving = 'saving';
    const reply = await ask<CommandsAnswer>('POST', `/api/sessions/${id}/commands`, {
      base: revision,
      id: crypto.randomUUID(),
      [direction]: entry.id
    });
    saving = reply.ok || reply.error.code !== 'offline' ? 'saved' : 'offline';
    if (!reply.ok) return void say(reply.error.message);
    const { missed, changes, revision: reached } = reply.value;
    if (missed === null) return reset();
    known = reply.value.history;
    lookBack();
    if (reached > revision) {
      const others = missed.filter((done) => done.revision > revision).flatMap((done) => decodeChanges(done.changes));
      revision = reached;
      rebase([...others, ...decodeChanges(changes)], null);
    }
    say(`${direction === 'undo' ? 'Undone' : 'Redone'}: ${entry.label}`);
  };

  let tree: Tree | null = null;
  let heard: Audibility | null = null;
  listeners.add((changes) => {
    tree = null;
    if (woken(changes).has('routing')) heard = null;
  });

  return {
    id,
    session,
    act,
    undo: () => step('undo'),
    redo: () => step('redo'),
    say,
    follow,
    onChanges: (listener: (changes: readonly Change[]) => void) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    document: () => encodeSession(session),
    get history() {
      return history;
    },
    get saving() {
      return saving;
    },
    get aside() {
      return aside;
    },
    retryAside,
    forgetAside,
    get unkept() {
      return unkept;
    },
    get notice() {
      return notice;
    },
    get settings() {
      signals.read(rowSignal('settings', 'settings'));
      return settingsOf(session);
    },
    get tree(): Tree {
      signals.read('tree');
      return (tree ??= treeOf(session));
    },
    /** All channels in order of birth; follows births, removals and moves, not their other values. */
    get channels(): Channel[] {
      signals.read('tree');
      return [...session.channel.values()].sort((a, b) => a.born - b.born);
    },
    /** Returns and cues, in the order of their columns, hidden ones left out. */
    get columns(): Channel[] {
      signals.read('tree');
      return [...session.channel.values()]
        .filter(({ kind, columnHidden }) => (kind === 'return' || kind === 'cue') && !columnHidden)
        .sort((a, b) => a.column - b.column || Number(a.kind === 'cue') - Number(b.kind === 'cue') || a.position - b.position);
    },
    get pinned(): Channel[] {
      signals.read('tree');
      return [...session.channel.values()].filter(({ pinned }) => pinned).sort((a, b) => a.position - b.position);
    },
    get heard(): Audibility {
      signals.read('routing');
      return (heard ??= audibility(session));
    },
    /** Follows everything that a row of the Roster shows. */
    watchRows: () => signals.read('rows'),
    /** Follows births, removals and lengths of clips. */
    watchClips: () => signals.read('clips'),
    channel: (channelId: string): Channel | undefined => {
      signals.read(rowSignal('channel', channelId));
      return session.channel.get(channelId);
    },
    send: (sourceId: string, targetId: string): Send | undefined => {
      signals.read(ownedSignal('send', sourceId));
      return session.send.get(sendKey(sourceId, targetId));
    },
    inserts: (channelId: string): Insert[] => {
      signals.read(ownedSignal('insert', channelId));
      return insertsOf(session, channelId);
    }
  };
}

/** −∞ travels as "-inf". */
const forWire = (commands: readonly Command[]): unknown =>
  JSON.parse(JSON.stringify(commands, (_, value: unknown) => (value === -Infinity ? '-inf' : value)));

/** The inverse: "-inf" is understood by every command. */
const fromWire = (commands: readonly Command[]): Command[] => JSON.parse(JSON.stringify(forWire(commands))) as Command[];

function equal(a: readonly Change[], b: readonly Change[]): boolean {
  const sameFields = (x: Fields | null, y: Fields | null) =>
    x === y ||
    (!!x && !!y && Object.keys(x).length === Object.keys(y).length && Object.entries(x).every(([name, value]) => same(value, y[name])));
  return (
    a.length === b.length &&
    a.every((change, i) => change.table === b[i].table && change.key === b[i].key && sameFields(change.after, b[i].after))
  );
}
