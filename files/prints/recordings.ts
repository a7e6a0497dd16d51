// Recordings while something is rendered from them: read from their files in large pieces, each piece decoded once for all its channels.
import { closeSync, openSync, readSync } from 'node:fs';
import type { Pcm } from '$core/engine/engine';
import { BYTES, decode, planar } from '$core/formats/pcm';
import type { WavInfo } from '$core/formats/wav';

export type Recordings = Readonly<Record<string, { readonly file: string; readonly info: WavInfo }>>;

/** Frames of a piece: at 48 kHz two thirds of a second, so that 500 stereo tracks hold 130 MB. */
const PIECE = 32768;

/** Pieces of one recording that are held at most, and reads in the course of which one has to be used to stay: clips may play it at several places. */
const MOST_PIECES = 8;
const LATELY = 100;

type Piece = { readonly from: number; readonly sides: readonly Float32Array[]; used: number };
type Open = { readonly handle: number; pieces: Piece[]; reads: number };

/** By media id. `const { read, close } = filePcm(recordings)` */
export function filePcm(recordings: Recordings): { readonly read: Pcm; readonly close: () => void } {
  const opened = new Map<string, Open>();
  const load = (mediaId: string, own: Open, from: number): Piece => {
    const { info } = recordings[mediaId];
    const frameBytes = BYTES[info.encoding] * info.channels;
    const count = Math.max(0, Math.min(PIECE, info.frames - from));
    const bytes = new Uint8Array(count * frameBytes);
    const got = count > 0 ? readSync(own.handle, bytes, 0, bytes.length, info.dataAt + from * frameBytes) : 0;
    const sides = planar(bytes.subarray(0, got - (got % frameBytes)), info.encoding, info.channels).map((stored) => {
      const samples = new Float32Array(count);
      decode(stored, info.encoding, samples);
      return samples;
    });
    return { from, sides, used: own.reads };
  };
  return {
    read: (mediaId, channel, from, into) => {
      let own = opened.get(mediaId);
      if (!own) opened.set(mediaId, (own = { handle: openSync(recordings[mediaId].file, 'r'), pieces: [], reads: 0 }));
      own.reads++;
      for (let at = Math.max(0, -from); at < into.length;) {
        const begin = Math.floor((from + at) / PIECE) * PIECE;
        let piece = own.pieces.find((each) => each.from === begin);
        if (!piece) {
          piece = load(mediaId, own, begin);
          const { reads, pieces } = own;
          const lately = pieces.filter(({ used }) => reads - used < LATELY).sort((a, b) => b.used - a.used);
          own.pieces = [piece, ...lately].slice(0, MOST_PIECES);
        }
        piece.used = own.reads;
        const side = piece.sides[channel];
        const offset = from + at - begin;
        const count = Math.min(into.length - at, PIECE - offset);
        if (offset < side.length) into.set(side.subarray(offset, Math.min(side.length, offset + count)), at);
        at += count;
      }
    },
    close: () => opened.forEach(({ handle }) => closeSync(handle))
  };
}
