// Edits of clips, sensible or not, on a small desk: two mono tracks whose edits are linked, a third, and a pair of two recordings; and what
// such a track plays, worked out sample by sample from the rows alone.
import fc from 'fast-check';
import type { Command } from '../../core/commands/index.ts';
import type { Clip, Curve, Session } from '../../core/session/entities.ts';
import { carryOut, emptyDesk, trackCommand } from './rig.ts';

export const LENGTH = 6000;
export const TRACKS = ['a', 'b', 'c', 'l'] as const;

export const editDesk = (): Session =>
  carryOut(
    emptyDesk(),
    trackCommand([...['a', 'b', 'c', 'l', 'r'].map((id) => ({ id, frames: LENGTH })), { id: 'w', width: 2 as const, frames: LENGTH }]),
    { do: 'tracks.pair', left: 'l', right: 'r', name: 'Pair' },
    { do: 'links.add', id: 'tied', name: 'Tied', badge: 'tied', members: ['a', 'b'], attributes: ['cuts', 'moves', 'fades'] }
  );

type Draft = {
  readonly what: number;
  readonly which: number[];
  readonly at: number;
  readonly to: number;
  readonly curve: Curve;
  readonly on: boolean;
};
const draft = fc.record<Draft>({
  what: fc.nat(11),
  which: fc.array(fc.nat(40), { minLength: 1, maxLength: 3 }),
  at: fc.integer({ min: 0, max: LENGTH + 500 }),
  to: fc.integer({ min: 0, max: LENGTH + 500 }),
  curve: fc.constantFrom('linear' as const, 'power' as const, 'slow' as const, 'fast' as const),
  on: fc.boolean()
});
export const anyEdits = (most = 12) => fc.array(draft, { minLength: 1, maxLength: most });

/** The command that a draft comes to in a session as it is now; `n` makes ids of what is new. */
export function editOf(session: Session, { what, which, at, to, curve, on }: Draft, n: number): Command {
  const all = [...session.clip.keys()].sort();
  const ids = [...new Set(which.map((each) => all[each % Math.max(1, all.length)] ?? 'none'))];
  const channels = [TRACKS[which[0] % 4]];
  const [from, until] = [Math.min(at, to), Math.max(at, to)];
  const frames = Math.abs(to - at) % 700;
  switch (what) {
    case 0:
      return { do: 'clips.cut', ids, at, as: `n${n}` };
    case 1:
      return { do: 'clips.cut', channels, at, as: `n${n}` };
    case 2:
      return { do: 'clips.remove', ids };
    case 3:
      return { do: 'clips.remove', channels, from, to: until };
    case 4:
      return { do: 'clips.trim', ids, ...(on ? { start: at } : { end: to }) };
    case 5:
      return { do: 'clips.move', ids, by: to - at };
    case 6:
      return { do: 'clips.move', ids: ids.slice(0, 1), by: (to - at) % 300, to: TRACKS[which.at(-1)! % 4] };
    case 7:
      return { do: 'clips.gain', ids, db: (at % 84) - 60 };
    case 8:
      return { do: 'clips.fade', ids, ...(on ? { in: { frames, curve } } : { out: { frames, curve } }) };
    case 9:
      return { do: 'clips.join', ids, frames };
    case 10:
      return on ? { do: 'clips.reunite', ids } : { do: 'clips.mute', ids, on: at % 2 === 0 };
    default:
      return { do: 'clips.duplicate', ids, by: to - at, as: `n${n}` };
  }
}

const rise: Readonly<Record<Curve, (x: number) => number>> = {
  linear: (x) => x,
  power: (x) => Math.sin((Math.PI / 2) * x),
  slow: (x) => x * x,
  fast: (x) => x * (2 - x)
};

/** One side of what clips of a track play, `frames` long; `read` gives a sample of a recording. */
export function playedBy(
  clips: readonly Clip[],
  side: 'left' | 'right',
  frames: number,
  edge: number,
  read: (mediaId: string, channel: number, frame: number) => number
): Float64Array {
  const out = new Float64Array(frames);
  const own = clips.filter((clip) => clip.side === 'both' || clip.side === side).sort((a, b) => a.start - b.start);
  const level = (clip: Clip) => (clip.muted ? 0 : 10 ** (clip.gainDb / 20));
  const pieces = (a: Clip, b: Clip) =>
    a.mediaId === b.mediaId && a.channel === b.channel && a.offset - a.start === b.offset - b.start && a.side === b.side;
  own.forEach((clip, i) => {
    if (clip.muted) return;
    const { start, length, offset } = clip;
    const end = start + length;
    const before = own[i - 1] as Clip | undefined;
    const next = own[i + 1] as Clip | undefined;
    const touches = (a: Clip, b: Clip) => a.start + a.length === b.start && a.fadeOut === 0 && b.fadeIn === 0 && pieces(a, b);
    const overlap = next ? end - next.start : 0;
    const crossed = next !== undefined && overlap > 0 && !next.muted && next.side === clip.side;
    const glides = before && touches(before, clip) && level(before) !== level(clip) ? Math.min(edge, length) : 0;
    const ends = next?.muted && touches(clip, next) ? Math.min(edge, length - clip.fadeIn) : 0;
    for (let f = start; f < Math.min(end, frames); f++) {
      let gain = f - start < glides ? level(before!) + ((level(clip) - level(before!)) * (f - start)) / glides : level(clip);
      if (f - start < clip.fadeIn) gain *= rise[clip.fadeInCurve]((f - start) / clip.fadeIn);
      if (ends && f >= end - ends) gain *= (end - f) / ends;
      if (f >= end - clip.fadeOut) {
        const left = (end - f) / clip.fadeOut;
        const rising = crossed ? rise[next.fadeInCurve](1 - left) : 0;
        gain *= !crossed ? rise[clip.fadeOutCurve](left) : pieces(clip, next) ? 1 - rising : Math.sqrt(Math.max(0, 1 - rising * rising));
      }
      out[f] += gain * read(clip.mediaId, clip.side === 'both' && side === 'right' ? clip.channel + 1 : clip.channel, f - start + offset);
    }
  });
  return out;
}
