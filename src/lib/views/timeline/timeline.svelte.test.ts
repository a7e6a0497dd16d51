// The Timeline without a browser: what is under the hand, what a drag comes to and shows before it is let go, every key and menu entry,
// and pictures of recordings.
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { editDesk, LENGTH } from '../../../../tests/oracle/anyEdit';
import { pageDesk } from '../../../../tests/oracle/page';
import { carryOut } from '../../../../tests/oracle/rig';
import { peakBuilder } from '$core/measure/peaks';
import { encodeSession } from '$core/session/tables';
import { timelineCommands } from './commands';
import { commandOf, hitAt, previewOf } from './drags';
import { createEdits } from './edits.svelte';
import { clipMenu } from './menus';
import { extremes, levelFor, rulerLines } from './picture';
import { createSpan } from './span.svelte';

beforeEach(() => vi.stubGlobal('localStorage', { getItem: () => null, setItem: () => undefined }));
afterEach(() => vi.unstubAllGlobals());

const NONE: ReadonlySet<string> = new Set();
/** Ten frames a pixel. */
const view = { frameAt: (x: number) => x * 10, xOf: (frame: number) => frame / 10 };

describe('a press', () => {
  const session = carryOut(
    editDesk(),
    { do: 'clips.cut', ids: ['c:1'], at: 3000, as: 'x' },
    { do: 'clips.fade', ids: ['x:1'], out: { frames: 1000 } }
  );
  const at = (x: number, y: number, selected = NONE, id = 'c') => {
    const hit = hitAt(session, id, { x, y, height: 46 }, view, selected);
    return hit && `${hit.clip.id} ${hit.part}`;
  };
  it('takes hold of a clip, its edges, and of a selected one its fades', () => {
    expect([at(150, 23), at(2, 23), at(296, 23), at(304, 23), at(599, 23), at(700, 23)]).toEqual([
      ...['c:1 body', 'c:1 start', 'c:1 end', 'x:1 start', 'x:1 end', null]
    ]);
    expect(at(500, 8)).toBe('x:1 body');
    expect([at(500, 8, new Set(['x:1'])), at(302, 8, new Set(['x:1']))]).toEqual(['x:1 fadeOut', 'x:1 fadeIn']);
    // Of a pair made of two recordings each has its half of the row.
    expect([at(100, 10, NONE, 'l'), at(100, 40, NONE, 'l')]).toEqual(['l:1 body', 'r:1 body']);
  });
});

describe('a drag', () => {
  const session = carryOut(editDesk(), { do: 'clips.trim', ids: ['c:1'], start: 1000, end: 5000 });
  const clip = session.clip.get('c:1')!;
  const drag = (part: 'body' | 'start' | 'end' | 'fadeIn' | 'fadeOut', by: number, more: object = {}) =>
    commandOf(session, { hit: { clip, part }, ids: ['c:1'], by, over: null, snap: 'off', playhead: 0, ...more });
  it('comes to a command, within what is possible', () => {
    expect(drag('body', 200)).toEqual({ do: 'clips.move', ids: ['c:1'], by: 200 });
    expect(drag('body', -9000)).toEqual({ do: 'clips.move', ids: ['c:1'], by: -1000 });
    expect(drag('body', 0)).toBeNull();
    expect(drag('body', 0, { over: 'a' })).toEqual({ do: 'clips.move', ids: ['c:1'], by: 0, to: 'a' });
    expect(drag('start', 9000)).toEqual({ do: 'clips.trim', ids: ['c:1'], start: 4999 });
    expect(drag('end', 300)).toEqual({ do: 'clips.trim', ids: ['c:1'], end: 5300 });
    expect(drag('fadeIn', 100)).toEqual({ do: 'clips.fade', ids: ['c:1'], in: { frames: clip.fadeIn + 100 } });
    expect(drag('fadeOut', -99_999)).toEqual({ do: 'clips.fade', ids: ['c:1'], out: { frames: 4000 - clip.fadeIn } });
    expect(drag('end', 700, { snap: 'playhead', playhead: 5432 })).toEqual({ do: 'clips.trim', ids: ['c:1'], end: 5432 });
  });
  it('shows what would be, of linked tracks too, and leaves the session alone', () => {
    const before = encodeSession(session);
    const seen = previewOf(session, { do: 'clips.cut', ids: ['a:1'], at: 2000, as: 'n' });
    expect(typeof seen !== 'string' && [...seen.rows].map(([id, clips]) => [id, clips.length])).toEqual([
      ['a', 2],
      ['b', 2]
    ]);
    expect(previewOf(session, { do: 'clips.move', ids: ['c:1'], by: 0, to: 'w' })).toMatch('is mono and Track w stereo');
    expect(encodeSession(session)).toEqual(before);
    const crossed = carryOut(
      editDesk(),
      { do: 'clips.cut', ids: ['c:1'], at: 3000, as: 'x' },
      { do: 'clips.join', ids: ['c:1'], frames: 400 }
    );
    const pulled = commandOf(crossed, {
      ...{
        hit: { clip: crossed.clip.get('x:1')!, part: 'fadeIn' as const },
        ids: ['x:1'],
        by: 200,
        over: null,
        snap: 'off' as const,
        playhead: 0
      }
    });
    expect(pulled).toEqual({ do: 'clips.join', ids: ['c:1', 'x:1'], frames: 600 });
    // As far as the clips reach.
    const far = previewOf(crossed, { do: 'clips.join', ids: ['c:1', 'x:1'], frames: 99_999 });
    expect(typeof far !== 'string' && far.command).toMatchObject({ frames: 6000 });
  });
});

/** A desk with a selected row and clip, the playhead inside it. */
function hands() {
  const { desk, said } = pageDesk(carryOut(editDesk(), { do: 'clips.cut', ids: ['c:1'], at: 3000, as: 'x' }));
  let [position, loop] = [1500, null as { from: number; to: number } | null];
  const transport = {
    ...{ playing: false, rate: 48000 },
    get position() {
      return position;
    },
    get loop() {
      return loop;
    },
    locate: (to: number) => (position = to),
    setLoop: (to: typeof loop) => (loop = to),
    turnLoop: (to: typeof loop) => (loop = to && loop?.from !== to.from ? to : null)
  };
  const whole = { ...desk, transport } as unknown as typeof desk;
  const edits = createEdits(whole);
  whole.selection.set(['c'], 'c');
  edits.clips.set(['c:1'], 'c:1');
  const noted: string[] = [];
  const note = (what: string) => () => void noted.push(what);
  const list = timelineCommands({
    ...{
      edits,
      span: createSpan(whole.store),
      zoom: note('zoom'),
      findBleed: note('bleed'),
      newLane: note('lane'),
      rowBy: note('row'),
      toRow: note('to'),
      find: note('find'),
      heights: note('heights')
    },
    ...{ hasRows: () => true, toggle: note('toggle') }
  });
  return { store: whole.store, edits, transport, list, said, noted };
}

describe('keys and menus', () => {
  it('do what they say or say why not; none asks the core for something malformed', async () => {
    const count = hands().list.length;
    for (let i = 0; i < count + 12; i++) {
      const { store, edits, list, said } = hands();
      const entry = i < count ? list[i] : { ...clipMenu(edits, () => undefined)[i - count], title: 'menu' };
      const malformed = /^\w+\.\w+: /;
      entry.run();
      expect(`${entry.title} ${said()}`).not.toMatch(malformed);
      await vi.waitFor(() => expect(store.saving).toBe('saved'), { interval: 1, timeout: 120_000 });
    }
  });

  it('have keys of their own', () => {
    const keys = hands().list.flatMap(({ key }) => key ?? []);
    expect(new Set(keys).size).toBe(keys.length);
    // What the page itself listens to.
    for (const key of ['n', 'l', '?', ' ', 'Home', ...'123456789']) expect(keys).not.toContain(key);
  });

  it('edit around the playhead', () => {
    const { store, edits, transport } = hands();
    const of = (id: string) => store.session.clip.get(id)!;
    edits.fadeTo('in');
    expect(of('c:1').fadeIn).toBe(1500);
    edits.trimTo('end');
    expect(of('c:1').length).toBe(1500);
    edits.duplicate();
    expect(store.clips('c').map(({ start }) => start)).toEqual([0, 1500, 3000]);
    edits.toRow(-1, ['a', 'b', 'c', 'w']);
    expect(store.clips('b').map(({ start, length }) => [start, length])).toEqual([
      [0, 1500],
      [1500, 4500]
    ]);
    edits.toRow(1, ['a', 'b', 'c', 'w']);
    edits.toEdge(1);
    expect(transport.position).toBe(3000);
    edits.setRange({ from: 3500, to: 4000 });
    edits.takeOut();
    expect(store.clips('c')).toHaveLength(4);
    edits.newRange();
    edits.setRange({ from: 10, to: 20 });
    edits.newRange();
    edits.mark();
    expect(store.ranges.map(({ name }) => name).sort()).toEqual(['Range 1', 'Range 2']);
    expect(store.markers).toMatchObject([{ name: 'Marker 1', at: 3000 }]);
    edits.setRange({ from: 10, to: 20 });
    edits.loop();
    expect(transport.loop).toEqual({ from: 10, to: 20 });
    edits.loop();
    expect(transport.loop).toBeNull();
  });
});

describe('pictures', () => {
  it('show the extremes of whatever stretch, at whatever level of the pyramid', () => {
    const builder = peakBuilder();
    const sound = new Float32Array(100_000);
    sound[41_000] = 0.5;
    sound[77_000] = -0.25;
    builder.push([sound]);
    const peaks = builder.finish();
    const found: [number, number] = [0, 0];
    for (const perPixel of [10, 300, 5000, 40_000]) {
      const level = levelFor(peaks, perPixel);
      extremes(peaks, level, 40_960, 41_000 + perPixel, found);
      expect(found[1]).toBe(Math.round(0.5 * 32767));
      extremes(peaks, level, 0, 100_000, found);
      expect(found[0]).toBe(Math.round(-0.25 * 32767));
    }
    extremes(peaks, 0, 200_000, 300_000, found);
    expect(found).toEqual([0, 0]);
    expect(peaks.frames).toBeGreaterThan(LENGTH);
  });

  it('have a ruler in bars, beats, and close up in seconds, with room for its words', () => {
    const music = { rate: 48000, bpm: 120, beatsPerBar: 4 };
    expect(rulerLines(music, 0, 1000, 1000).map(({ text }) => text)).toEqual([
      '1',
      '2',
      '3',
      '4',
      '5',
      '6',
      '7',
      '8',
      '9',
      '10',
      '11',
      '12'
    ]);
    expect(
      rulerLines(music, 96_000, 200, 700)
        .map(({ text }) => text)
        .slice(0, 3)
    ).toEqual(['2', '2·2', '2·3']);
    expect(rulerLines(music, 48_000, 0.5, 300)[0].text).toBe('1.000 s');
    for (const perPixel of [0.05, 0.5, 5, 50, 500, 5000, 50_000]) {
      const lines = rulerLines(music, 12_345, perPixel, 800);
      for (const [i, { frame }] of lines.entries()) if (i) expect((frame - lines[i - 1].frame) / perPixel).toBeGreaterThanOrEqual(61);
    }
  });
});
