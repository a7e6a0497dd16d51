// Edits of clips: what may stand together, what comes back, what follows, and what is said where one cannot be done.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyEdits, editDesk, editOf, LENGTH } from '../../tests/oracle/anyEdit.ts';
import { carryOut, trackCommand } from '../../tests/oracle/rig.ts';
import { plan } from '../commands/plan.ts';
import type { Command } from '../commands/index.ts';
import { readDocument, writeDocument } from '../formats/document.ts';
import { fits } from '../formats/gate.ts';
import { commit, creation, removal } from '../session/changes.ts';
import type { Session } from '../session/entities.ts';
import { clipEnd } from '../session/joints.ts';
import { clipsInTime, clipsWithin } from '../session/timeline.ts';
import { encodeSession } from '../session/tables.ts';

const rowsOf = (session: Session) =>
  Object.entries(encodeSession(session)).map(([table, rows]) => [table, rows.map((row) => JSON.stringify(row)).sort()]);
const said = (session: Session, command: Command): string => {
  const planned = plan(session, command);
  return planned.ok ? planned.value.label : planned.error.message;
};
const shapes = (session: Session, id: string) =>
  clipsInTime(session, id).map(({ start, length, offset, fadeIn, fadeOut, fadeInCurve, fadeOutCurve }) => [
    start,
    length,
    offset,
    fadeIn,
    fadeOut,
    fadeInCurve,
    fadeOutCurve
  ]);

describe('any sequence of edits', () => {
  it('leaves clips that may stand together, found by time, and is taken back', () => {
    fc.assert(
      fc.property(anyEdits(), (drafts) => {
        const session = editDesk();
        const start = rowsOf(session);
        const undos = drafts.flatMap((draft, n) => {
          const planned = plan(session, editOf(session, draft, n));
          if (!planned.ok) return [];
          const back = commit(session, planned.value.changes);
          expect(fits(session, planned.value.changes)).toEqual({ ok: true, value: null });
          return [back];
        });
        for (const id of ['a', 'b', 'c', 'l']) {
          const own = clipsInTime(session, id);
          expect(own.map((clip) => clip.id).sort()).toEqual(
            [...session.clip.values()].flatMap((clip) => (clip.channelId === id ? [clip.id] : [])).sort()
          );
          for (const [from, to] of [
            [0, 1],
            [1000, 2500],
            [LENGTH - 1, LENGTH]
          ])
            expect(new Set(clipsWithin(session, id, from, to))).toEqual(
              new Set(own.filter((clip) => clip.start < to && clipEnd(clip) > from))
            );
        }
        const mended: string[] = [];
        const again = readDocument(writeDocument(session), mended);
        expect([again.ok && rowsOf(again.value), mended]).toEqual([rowsOf(session), []]);
        for (const back of undos.reverse()) commit(session, back);
        expect(rowsOf(session)).toEqual(start);
      }),
      { numRuns: 200, seed: 16 }
    );
  });

  it('keeps linked tracks in step to the frame', () => {
    fc.assert(
      fc.property(anyEdits(), (drafts) => {
        const session = editDesk();
        drafts.forEach((draft, n) => {
          const command = editOf(session, draft, n);
          // To other tracks each goes by itself, and gains are nobody else's.
          if ('to' in command && command.do === 'clips.move') return;
          const ids = 'ids' in command ? (command.ids as string[]).filter((id) => session.clip.get(id)?.channelId !== 'b') : null;
          if (ids?.length === 0) return;
          const planned = plan(session, { ...command, ...(ids ? { ids } : {}) } as Command);
          if (planned.ok) commit(session, planned.value.changes);
        });
        expect(shapes(session, 'b')).toEqual(shapes(session, 'a'));
      }),
      { numRuns: 300, seed: 17 }
    );
  });
});

describe('edits', () => {
  const on = (...commands: Command[]) => carryOut(editDesk(), ...commands);
  const brief = (session: Session, id = 'c') => clipsInTime(session, id).map((clip) => [clip.id, clip.start, clipEnd(clip)]);

  it('cuts without a fade, and gives one to what an edit parts', () => {
    const session = on({ do: 'clips.cut', ids: ['c:1'], at: 2000, as: 'x' });
    expect(brief(session)).toEqual([
      ['c:1', 0, 2000],
      ['x:1', 2000, LENGTH]
    ]);
    expect(clipsInTime(session, 'c').map(({ fadeIn, fadeOut }) => [fadeIn, fadeOut])).toEqual([
      [0, 0],
      [0, 0]
    ]);
    carryOut(session, { do: 'clips.move', ids: ['x:1'], by: 300 });
    // 2 ms at 48 kHz; the recording's own ends are as they were.
    expect(clipsInTime(session, 'c').map(({ fadeIn, fadeOut }) => [fadeIn, fadeOut])).toEqual([
      [0, 96],
      [96, 0]
    ]);
    carryOut(session, { do: 'clips.move', ids: ['x:1'], by: -300 });
    expect(clipsInTime(session, 'c').map(({ fadeIn, fadeOut }) => [fadeIn, fadeOut])).toEqual([
      [0, 0],
      [0, 0]
    ]);
    carryOut(session, { do: 'settings.set', edgeMs: 0 }, { do: 'clips.remove', ids: ['x:1'] });
    expect(session.clip.get('c:1')!.fadeOut).toBe(0);
  });

  it('cuts what another page has cut already', () => {
    const session = on({ do: 'clips.cut', ids: ['c:1'], at: 2000, as: 'x' }, { do: 'clips.cut', ids: ['c:1'], at: 4000, as: 'y' });
    expect(brief(session)).toEqual([
      ['c:1', 0, 2000],
      ['x:1', 2000, 4000],
      ['y:1', 4000, LENGTH]
    ]);
    expect(said(session, { do: 'clips.cut', ids: ['c:1'], at: 4000, as: 'z' })).toMatch('None of these clips can be cut at 0:00.083');
  });

  it('takes ranges out, on the sides that are meant', () => {
    const session = on({ do: 'clips.remove', channels: ['c', 'l'], from: 1000, to: 2000 });
    expect(brief(session)).toEqual([
      ['c:1', 0, 1000],
      ['c:1:c', 2000, LENGTH]
    ]);
    expect(clipsInTime(session, 'l')).toHaveLength(4);
    // A clip of one side that comes to lie on one of both leaves the other side of it.
    const wide = on(
      { do: 'clips.cut', ids: ['l:1'], at: 500, as: 'x' },
      { do: 'clips.remove', ids: ['x:1', 'r:1'] },
      { do: 'clips.move', ids: ['l:1'], by: 1000, to: 'w' }
    );
    expect(clipsInTime(wide, 'w').map(({ start, length, side, channel }) => [start, length, side, channel])).toEqual([
      [0, 1000, 'both', 0],
      [1000, 500, 'left', 0],
      [1000, 500, 'right', 1],
      [1500, LENGTH - 1500, 'both', 0]
    ]);
  });

  it('removes a recording with the last clip that plays it', () => {
    const session = on({ do: 'clips.duplicate', ids: ['c:1'], by: LENGTH, as: 'x' }, { do: 'clips.remove', ids: ['c:1'] });
    expect(session.media.has('m-c')).toBe(true);
    carryOut(session, { do: 'clips.remove', ids: ['x:1'] });
    expect(session.media.has('m-c')).toBe(false);
  });

  it('stops trims at the recording’s ends, all where the first has to', () => {
    const session = on({ do: 'clips.trim', ids: ['c:1'], start: 1000, end: 5000 }, { do: 'clips.move', ids: ['c:1'], by: 2000 });
    carryOut(session, { do: 'clips.trim', ids: ['c:1'], start: 0, end: 90000 });
    expect(brief(session)).toEqual([['c:1', 2000, 2000 + LENGTH]]);
    // Linked ones stop together: b's recording begins later.
    const tied = on(
      { do: 'clips.trim', ids: ['a:1'], start: 500 },
      { do: 'clips.move', ids: ['b:1'], by: -100, alone: true },
      { do: 'clips.trim', ids: ['b:1'], start: 500, alone: true },
      { do: 'clips.trim', ids: ['a:1'], start: 0 }
    );
    expect([brief(tied, 'a')[0][1], brief(tied, 'b')[0][1]]).toEqual([0, 0]);
  });

  it('crosses clips that meet and says how far that goes', () => {
    const session = on({ do: 'clips.cut', ids: ['c:1'], at: 3000, as: 'x' }, { do: 'clips.join', ids: ['c:1', 'x:1'], frames: 480 });
    expect(brief(session)).toEqual([
      ['c:1', 0, 3240],
      ['x:1', 2760, LENGTH]
    ]);
    expect(session.clip.get('c:1')).toMatchObject({ fadeOut: 480, fadeOutCurve: 'linear' });
    carryOut(session, { do: 'clips.join', ids: ['c:1', 'x:1'], frames: 0 });
    expect(brief(session)).toEqual([
      ['c:1', 0, 3000],
      ['x:1', 3000, LENGTH]
    ]);
    // Of a crossing of which one fade changes the rest ends.
    carryOut(
      session,
      { do: 'clips.join', ids: ['c:1'], frames: 480 },
      { do: 'clips.fade', ids: ['x:1'], in: { frames: 100, curve: 'slow' } }
    );
    expect(brief(session)).toEqual([
      ['c:1', 0, 2760],
      ['x:1', 2760, LENGTH]
    ]);
    expect(session.clip.get('c:1')!.fadeOut).toBe(96);
    // Two recordings reach over each other by what each has beyond its edge.
    const ends = on({ do: 'clips.trim', ids: ['c:1'], end: 5900 }, { do: 'clips.move', ids: ['a:1'], by: 5900, to: 'c', alone: true });
    expect(said(ends, { do: 'clips.join', ids: ['c:1', 'a:1'], frames: 200 })).toMatch('reach 100 frames over each other, not 200');
    carryOut(ends, { do: 'clips.join', ids: ['c:1', 'a:1'], frames: 100 });
    expect(ends.clip.get('a:1')).toMatchObject({ start: 5900, fadeIn: 100, fadeInCurve: 'power' });
  });

  it('reunites pieces, a row of them at once', () => {
    const session = on(
      ...[1000, 2000, 3000].map((at, i): Command => ({ do: 'clips.cut', channels: ['c'], at, as: `x${i}` })),
      { do: 'clips.fade', ids: ['x2:1'], out: { frames: 50, curve: 'fast' } },
      { do: 'clips.reunite', ids: ['c:1', 'x0:1', 'x1:1', 'x2:1'] }
    );
    expect(brief(session)).toEqual([['c:1', 0, LENGTH]]);
    expect(session.clip.get('c:1')).toMatchObject({ fadeOut: 50, fadeOutCurve: 'fast' });
    expect(said(session, { do: 'clips.reunite', ids: ['c:1'] })).toMatch('Nothing here can be reunited');
  });

  it('leaves members alone that have nothing there, and says so', () => {
    const session = on({ do: 'clips.remove', channels: ['b'], from: 0, to: 3000, alone: true });
    expect(said(session, { do: 'clips.cut', ids: ['a:1'], at: 1000, as: 'x' })).toBe('Cut Track a at 0:00.020 (Track b had nothing there)');
    expect(said(session, { do: 'clips.cut', ids: ['a:1'], at: 4000, as: 'x' })).toBe('Cut Track a at 0:00.083, and 1 linked');
  });

  it.each<[string, Command, RegExp]>([
    ['a cut at an edge', { do: 'clips.cut', ids: ['c:1'], at: 0, as: 'x' }, /choose a place inside one/],
    ['a range of nothing', { do: 'clips.remove', channels: ['c'], from: 5, to: 5 }, /a later “to”/],
    ['a range where nothing sounds', { do: 'clips.remove', channels: ['c'], from: LENGTH, to: LENGTH + 5 }, /Nothing sounds there/],
    ['fades longer than their clip', { do: 'clips.fade', ids: ['c:1'], in: { frames: LENGTH + 1 } }, /room for 6000 frames/],
    ['fades that are so together', { do: 'clips.fade', ids: ['c:1'], in: { frames: 4000 }, out: { frames: 4000 } }, /Give fewer/],
    ['a move before zero', { do: 'clips.move', ids: ['c:1'], by: -1 }, /begins where the session does/],
    ['a linked one before zero', { do: 'clips.move', ids: ['a:1'], by: -1 }, /begins where the session does/],
    ['nothing left', { do: 'clips.trim', ids: ['c:1'], start: LENGTH }, /Nothing would be left/],
    ['mono onto stereo', { do: 'clips.move', ids: ['c:1'], by: 0, to: 'w' }, /is mono and Track w stereo/],
    ['onto the mix', { do: 'clips.move', ids: ['c:1'], by: 0, to: 'mix' }, /is no track/],
    ['clips that do not meet', { do: 'clips.join', ids: ['c:1'], frames: 10 }, /No two of these clips meet/],
    ['clips and channels', { do: 'clips.remove', ids: ['c:1'], channels: ['c'], from: 0, to: 1 }, /either clips or channels/],
    ['one that is gone', { do: 'clips.gain', ids: ['gone'], db: 0 }, /no longer in the session/],
    ['too loud', { do: 'clips.gain', ids: ['c:1'], db: 25 }, /24/],
    ['a copy onto itself', { do: 'clips.duplicate', ids: ['c:1'], by: 0, as: 'x' }, /another place/],
    ['half a frame', { do: 'clips.cut', ids: ['c:1'], at: 100.5, as: 'x' }, /integer/]
  ])('refuses %s in words', (_, command, words) => {
    const session = editDesk();
    const before = rowsOf(session);
    expect(plan(session, command).ok).toBe(false);
    expect(said(session, command)).toMatch(words);
    expect(rowsOf(session)).toEqual(before);
  });

  it('edits one of 20,000 clips and nothing else', () => {
    const session = carryOut(editDesk(), trackCommand([{ id: 'z', frames: 20_000 }]));
    const clip = session.clip.get('z:1')!;
    const many = Array.from({ length: 20_000 }, (_, i) => ({ ...clip, id: `z${i}`, start: i, offset: i, length: 1 }));
    commit(session, [removal(session, 'clip', clip.id), ...many.map((each) => creation('clip', each.id, each))]);
    const planned = plan(session, { do: 'clips.move', ids: ['z19999'], by: 5 });
    // One frame is too short for a fade of its own; it and the piece before it have hard edges now.
    expect(planned.ok && planned.value.changes.map(({ key }) => key)).toEqual(['z19998', 'z19999']);
  });
});
