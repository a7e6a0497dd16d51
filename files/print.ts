// Printing: a frozen session rendered to a WAV file, written to a name of its own and put in place when it is whole.
import { closeSync, fdatasyncSync, openSync, readFileSync, readSync, renameSync, rmSync, writeSync } from 'node:fs';
import { kernelModule } from '$core/kernel/kernel';
import { renderMix } from '$core/engine/offline';
import type { Pcm } from '$core/engine/engine';
import { BYTES, decode, ditherNoise, encode, planar, type Written } from '$core/formats/pcm';
import { wavHeader, type Bext, type WavInfo } from '$core/formats/wav';
import { refuse, ok, type Result } from '$core/result';
import { settingsOf, type Session } from '$core/session/entities';

export type Recordings = Readonly<Record<string, { readonly file: string; readonly info: WavInfo }>>;
export type PrintOrder = {
  readonly session: Session;
  /** The built kernel's file. */
  readonly kernel: string;
  /** By media id. */
  readonly recordings: Recordings;
  readonly encoding: Written;
  readonly file: string;
  /** When it was ordered, ISO 8601; it stands in the file. */
  readonly date: string;
};
export type Printed = { readonly frames: number; readonly peak: number };

const SEED = 1;
const DEPTH: Record<Written, string> = { s16: 'W=16', s24: 'W=24', f32: 'W=32' };

/** Recordings read from files, a span at a time. */
export function filePcm(recordings: Recordings): { readonly read: Pcm; readonly close: () => void } {
  const handles = new Map<string, number>();
  return {
    read: (mediaId, channel, from, into) => {
      const { info, file } = recordings[mediaId];
      let handle = handles.get(mediaId);
      if (handle === undefined) handles.set(mediaId, (handle = openSync(file, 'r')));
      const frameBytes = BYTES[info.encoding] * info.channels;
      const bytes = new Uint8Array(into.length * frameBytes);
      const got = readSync(handle, bytes, 0, bytes.length, info.dataAt + from * frameBytes);
      decode(planar(bytes.subarray(0, got), info.encoding, info.channels)[channel], info.encoding, into);
    },
    close: () => handles.forEach((handle) => closeSync(handle))
  };
}

/**
 * Renders the mix. 16 bit is dithered (TPDF, fixed seed), so that the same session printed twice is the same to the bit; other
 * depths are not. An integer file that would clip is given up with words.
 */
export function printMix(order: PrintOrder, progress: (share: number) => void): Result<Printed> {
  const { rate } = settingsOf(order.session);
  const { encoding } = order;
  const pcm = filePcm(order.recordings);
  const partial = `${order.file}.part`;
  const out = openSync(partial, 'w');
  const dither = encoding === 's16' ? ditherNoise(SEED) : undefined;
  const header = (frames: number) => wavHeader({ rate, channels: 2, encoding, frames, bext: bextOf(order, rate) });
  let frames = 0;
  let peak = 0;
  let reported = 0;
  try {
    writeSync(out, header(0));
    for (const { left, right, done, end } of renderMix(kernelModule(readFileSync(order.kernel)), order.session, pcm.read)) {
      for (const side of [left, right]) for (const x of side) peak = Math.max(peak, Math.abs(x));
      const block = encode([left, right], encoding, dither);
      if (block.clipped) {
        const at = frames / rate;
        return refuse('clipped', `The mix goes over full scale at ${at.toFixed(1)} s. Lower the mix fader, or print as 32-bit float.`, {
          at
        });
      }
      writeSync(out, block.bytes);
      frames += left.length;
      if (done / end - reported > 0.02) progress((reported = done / end));
    }
    writeSync(out, header(frames), 0, undefined, 0);
    fdatasyncSync(out);
    renameSync(partial, order.file);
    return ok({ frames, peak });
  } finally {
    closeSync(out);
    rmSync(partial, { force: true });
    pcm.close();
  }
}

/** EBU Tech 3285 and R 98: who wrote it, when, and how it was coded; the timeline's zero is its time reference. */
function bextOf({ session, encoding, date }: PrintOrder, rate: number): Bext {
  const { name, zero } = settingsOf(session);
  return {
    description: `${name} – mix`.replace(/[^\x20-\x7e]/g, '-'),
    originator: 'Isotaxis',
    date: date.slice(0, 10),
    time: date.slice(11, 19),
    timeReference: zero,
    codingHistory: `A=PCM,F=${rate},${DEPTH[encoding]},M=stereo,T=Isotaxis${encoding === 's16' ? ';TPDF dither' : ''}`
  };
}
