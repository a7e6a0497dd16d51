// The open session in the page: carries out what the outbox asks for (core/sync/outbox.ts), and wakes what shows the rows it touched.
import { v4 as uuid } from 'uuid';
import { untrack } from 'svelte';
import type { Change } from '$core/session/changes';
import { alone as moveAlone } from '$core/commands/alone';
import { withHand } from '$core/commands/hand';
import type { Command } from '$core/commands/index';
import {
  sendId,
  settingsOf,
  type Channel,
  type Clip,
  type Insert,
  type Lane,
  type Link,
  type Marker,
  type Point,
  type Range,
  type Send,
  type Session,
  type Version
} from '$core/session/entities';
import { rowsBy } from '$core/session/lookup';
import { lanesOf, playingLane, pointsOf, type Asked } from '$core/lanes/points';
import { clipsInTime } from '$core/session/timeline';
import { levelOf } from '$core/routing/level';
import type { Db } from '$core/units';
import { known } from '$core/session/facts';
import type { Outlook } from '$core/session/history';
import { insertsOf } from '$core/session/select';
import { decodeSession, encodeSession, type SessionDocument } from '$core/session/tables';
import { ownedSignal, rowSignal, rowsWoken, woken } from '$core/session/woken';
import * as facts from '$core/routing/facts';
import type { Audibility } from '$core/routing/audibility';
import type { Tree } from '$core/routing/graph';
import { emptyOutbox, outlookOf, step, type Effect, type Event, type SetAside } from '$core/sync/outbox';
import type { Answer, Batch, News } from '$core/sync/wire';
import { soundness, type Soundness } from '$core/stems/soundness';
import type { Result } from '$core/result';
import { ask } from './api';
import { forgetful, type OutboxKeeper } from './outbox';
import { createSignals } from './signals.svelte';

export type Saving = 'saved' | 'saving' | 'offline';
export type SessionAnswer = { revision: number; document: SessionDocument; history: Outlook };
/** Another page has put the session into the bin, or removed it for good. */
export type Ended = 'bin' | 'gone';
export type SessionStore = ReturnType<typeof createSessionStore>;

/** How long a move waits for its picture before it is sent: the server works on the same processor. The outbox is kept already. */
const PICTURE_MS = 40;
/** The time until what nobody took is sent again. */
const RETRY_MS = 1500;

export function createSessionStore(id: string, answer: SessionAnswer, keeper: OutboxKeeper = forgetful()) {
  const session: Session = decodeSession(answer.document);
  const signals = createSignals();
  const listeners = new Set<(changes: readonly Change[]) => void>();
  let outbox = emptyOutbox(answer.revision, answer.history, keeper.aside());
  /** When the next batch is due to be sent, if that is arranged. */
  let timer: ReturnType<typeof setTimeout> | null = null;
  let history = $state.raw<Outlook>(answer.history);
  let aside = $state.raw<readonly SetAside[]>(outbox.aside);
  /** Whether the browser has no room for what is not saved yet. */
  let unkept = $state(false);
  let saving = $state<Saving>('saved');
  /** Whether what is linked is left alone, as long as a key is held. */
  let alone = $state(false);
  let heard = () => 0;
  /** Whether somebody takes moves over, to write them. */
  let taken: (commands: readonly Command[]) => boolean = () => false;
  /** Set once the session is no longer there to be changed. */
  let ended = $state<Ended | null>(null);
  let notice = $state.raw<{ text: string; serial: number } | null>(null);
  let serial = 0;

  const say = (text: string) => (notice = { text, serial: ++serial });
  /** Too far behind to catch up: the page starts again; what is not acknowledged is kept. */
  const reset = () => location.reload();

  const wake = (changes: readonly Change[]) => {
    // Each once, however many rows a batch touches.
    for (const signal of rowsWoken(session, changes)) signals.bump(signal);
    for (const aspect of woken(changes)) signals.bump(aspect);
    for (const listener of listeners) listener(changes);
  };

  const due = (after: number) => {
    timer ??= setTimeout(() => {
      timer = null;
      dispatch({ is: 'due' });
    }, after);
  };

  const send = async (batch: Batch, base: number) => {
    const reply = await ask<Answer>('POST', `/api/sessions/${id}/commands`, { base, ...batch });
    if (!reply.ok && reply.error.code === 'no-session') void findOut();
    dispatch({ is: 'answered', id: batch.id, answer: reply });
  };

  const carryOut = (effect: Effect) => {
    switch (effect.do) {
      case 'wake':
        return wake(effect.changes);
      case 'send':
        return void send(effect.batch, effect.base);
      case 'wait':
        return due(RETRY_MS);
      case 'keep': {
        const kept = keeper.save(outbox.queue.map(({ id: batchId, gesture, commands }) => ({ id: batchId, gesture, commands })));
        if (!kept && !unkept) say('This browser’s storage is full: keep this page open until all is saved.');
        return void (unkept = !kept);
      }
      case 'keep aside':
        if (!keeper.saveAside(outbox.aside)) unkept = true;
        return;
      case 'say':
        return say(effect.text);
      case 'reset':
        return reset();
    }
  };

  /** Takes an event in; whether it was not refused. */
  const dispatch = (event: Event): boolean =>
    untrack(() => {
      const next = step(session, outbox, event);
      outbox = next.outbox;
      for (const effect of next.effects) carryOut(effect);
      history = outlookOf(outbox);
      aside = outbox.aside;
      saving = outbox.queue.length === 0 ? 'saved' : outbox.away ? 'offline' : 'saving';
      if (outbox.queue.length && !outbox.sent) due(PICTURE_MS);
      return !next.refused;
    });

  let events: EventSource | null = null;
  const listen = () => {
    events?.close();
    events = new EventSource(`/api/sessions/${id}/events?since=${outbox.revision}`);
    events.onmessage = ({ data }) => dispatch({ is: 'heard', news: JSON.parse(data as string) as News });
    events.addEventListener('reset', reset);
    events.addEventListener('ended', ({ data }) => {
      ended = (JSON.parse(data as string) as { why: Ended }).why;
      events?.close();
    });
    // Refused for good, and not only cut off.
    events.onerror = () => events?.readyState === EventSource.CLOSED && void findOut();
  };
  /** Whether the session is still there: in the bin, or gone for good, where it is not. */
  const findOut = async () => {
    const here = await ask('GET', `/api/sessions/${id}`);
    if (here.ok || here.error.code !== 'no-session') return;
    const bin = await ask<{ sessions: { id: string }[] }>('GET', '/api/sessions?bin=1');
    ended = bin.ok && bin.value.sessions.some((each) => each.id === id) ? 'bin' : 'gone';
  };
  /** Takes the session out of the bin and goes on. */
  const bringBack = async (): Promise<Result<void>> => {
    const answer = await ask<void>('POST', `/api/sessions/${id}/restore`);
    if (!answer.ok) return answer;
    ended = null;
    listen();
    say('The session is back.');
    return answer;
  };

  /** Listens to what other pages do, and takes up what pages that are gone have left unsent; returns how to stop. */
  const follow = (): (() => void) => {
    listen();
    void keeper.adopt().then((batches) => batches.length && dispatch({ is: 'adopted', batches }));
    return () => events?.close();
  };

  /** Carries commands out here and now, and on the server soon. Moves of one gesture are one undo entry. */
  const actAs = (commands: readonly Command[], gesture: string | null = null): boolean =>
    dispatch({ is: 'acted', id: uuid(), commands, gesture });
  const act = (commands: readonly Command[], gesture: string | null = null): boolean => {
    if (taken(commands)) return true;
    const { laneGrab } = settingsOf(session);
    const meant = session.lane.size === 0 || laneGrab === 'refuse' ? commands : withHand(commands, laneGrab, heard());
    return actAs(alone ? moveAlone(meant) : meant, gesture);
  };

  const turn = async (direction: 'undo' | 'redo') => {
    while (outbox.queue.length && !outbox.away) await new Promise((resolve) => setTimeout(resolve, 5));
    if (outbox.queue.length) return void say('The server does not answer. What you did waits here; undoing it has to wait as well.');
    const entry = history[direction];
    if (!entry) return;
    saving = 'saving';
    const reply = await ask<Answer>('POST', `/api/sessions/${id}/commands`, {
      base: outbox.revision,
      id: uuid(),
      [direction]: entry.id
    });
    saving = reply.ok || reply.error.code !== 'offline' ? 'saved' : 'offline';
    if (!reply.ok) return void say(reply.error.message);
    dispatch({ is: 'turned', answer: reply.value });
    say(`${direction === 'undo' ? 'Undone' : 'Redone'}: ${entry.label}`);
  };

  return {
    id,
    session,
    act,
    undo: () => turn('undo'),
    redo: () => turn('redo'),
    say,
    follow,
    bringBack,
    get ended() {
      return ended;
    },
    onChanges: (listener: (changes: readonly Change[]) => void) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    document: () => encodeSession(session),
    get history() {
      return history;
    },
    get alone() {
      return alone;
    },
    holdAlone: (on: boolean) => (alone = on),
    /** Says which frame is heard now. */
    heardAt: (frame: () => number) => (heard = frame),
    takenBy: (take: (commands: readonly Command[]) => boolean) => (taken = take),
    /** The same, past whoever writes moves. */
    actAs,
    get saving() {
      return saving;
    },
    get aside() {
      return aside;
    },
    /** Carries out anew what was set aside; it stays there where that cannot be. */
    retryAside: (batchId: string) => void dispatch({ is: 'retried', aside: batchId, id: uuid() }),
    forgetAside: (batchId: string) => void dispatch({ is: 'forgotten', aside: batchId }),
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
      return known(session, facts.tree);
    },
    /** All channels in the order in which they were made; follows new ones, removals and moves, not their other values. */
    get channels(): readonly Channel[] {
      signals.read('tree');
      return known(session, facts.byBirth);
    },
    /** Returns and cues, in the order of their columns, hidden ones left out. */
    get columns(): readonly Channel[] {
      signals.read('tree');
      return known(session, facts.columns);
    },
    get pinned(): readonly Channel[] {
      signals.read('tree');
      return known(session, facts.pinned);
    },
    get heard(): Audibility {
      signals.read('routing');
      return known(session, facts.heard);
    },
    get vcas(): readonly Channel[] {
      signals.read('tree');
      return known(session, facts.vcas);
    },
    /** Link groups in their order. */
    get links(): readonly Link[] {
      signals.read('groups');
      return known(session, facts.links);
    },
    /** The link groups that a channel is in, each with whether it is at work. */
    linksOf: (channelId: string): readonly { readonly link: Link; readonly active: boolean }[] => {
      signals.read('groups');
      const { linksPaused } = settingsOf(session);
      const own = new Set(rowsBy(session, 'linkMember', 'channelId', channelId).map(({ linkId }) => linkId));
      return known(session, facts.links)
        .filter(({ id: linkId }) => own.has(linkId))
        .map((link) => ({ link, active: link.active && !linksPaused }));
    },
    /** A channel's level with all VCAs above it, dB. */
    level: (channelId: string): Db => {
      signals.read(rowSignal('channel', channelId));
      const channel = session.channel.get(channelId);
      return channel ? levelOf(session, channel) : -Infinity;
    },
    /** Whether the stems add up, and what is wrong where they do not. */
    get soundness(): Soundness {
      signals.read('routing');
      signals.read('clips');
      return known(session, soundness);
    },
    /** Versions of the mix in their order. */
    get versions(): readonly Version[] {
      signals.read('prints');
      return [...session.version.values()].sort((a, b) => a.position - b.position);
    },
    /** Markers and ranges in the order of time. */
    get markers(): readonly Marker[] {
      signals.read('places');
      return [...session.marker.values()].sort((a, b) => a.at - b.at || (a.id < b.id ? -1 : 1));
    },
    get ranges(): readonly Range[] {
      signals.read('places');
      return [...session.range.values()].sort((a, b) => a.start - b.start || (a.id < b.id ? -1 : 1));
    },
    /** A track's clips in the order of time. */
    clips: (channelId: string): readonly Clip[] => {
      signals.read(ownedSignal('clip', channelId));
      return clipsInTime(session, channelId);
    },
    /** Lanes of a channel; and of the whole session, by channel in the order of the rows. */
    lanes: (channelId: string): readonly Lane[] => {
      signals.read('lanes');
      return lanesOf(session, channelId);
    },
    get allLanes(): readonly Lane[] {
      signals.read('lanes');
      return [...session.lane.values()];
    },
    lane: (laneId: string): Lane | undefined => {
      signals.read('lanes');
      return session.lane.get(laneId);
    },
    /** A lane's points by time. */
    points: (laneId: string): readonly Point[] => {
      signals.read('lanes');
      return pointsOf(session, laneId);
    },
    /** The lane of something, if it is at work. */
    playingLane: (asked: Asked): Lane | undefined => {
      signals.read('lanes');
      return playingLane(session, asked);
    },
    clip: (clipId: string): Clip | undefined => {
      signals.read(rowSignal('clip', clipId));
      return session.clip.get(clipId);
    },
    /** Follows who is in which VCA and link group. */
    watchGroups: () => signals.read('groups'),
    /** Follows everything that a row of the Roster shows. */
    watchRows: () => signals.read('rows'),
    /** Follows new clips, removals and lengths. */
    watchClips: () => signals.read('clips'),
    channel: (channelId: string): Channel | undefined => {
      signals.read(rowSignal('channel', channelId));
      return session.channel.get(channelId);
    },
    send: (sourceId: string, targetId: string): Send | undefined => {
      signals.read(ownedSignal('send', sourceId));
      return session.send.get(sendId(sourceId, targetId));
    },
    inserts: (channelId: string): Insert[] => {
      signals.read(ownedSignal('insert', channelId));
      return insertsOf(session, channelId);
    }
  };
}
