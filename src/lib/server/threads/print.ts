// The print thread: renders a frozen session to a WAV file and reports how far it is.
import { closeSync, fdatasyncSync, openSync, readFileSync, readSync, renameSync, rmSync, writeSync } from 'node:fs';
import { parentPort, workerData } from 'node:worker_threads';
import { renderMix } from '$core/engine/offline';
import { kernelModule } from '$core/engine/kernel';
import { BYTES, decode, encode, planar } from '$core/formats/pcm';
import { wavHeader, type WavInfo } from '$core/formats/wav';
import { settingsOf } from '$core/session/entities';
import { decodeSession, type SessionDocument } from '$core/session/tables';

export type PrintOrder = {
  readonly document: SessionDocument;
  readonly kernel: string;
  readonly recordings: Readonly<Record<string, { readonly file: string; readonly info: WavInfo }>>;
  readonly encoding: 's24' | 'f32';
  readonly file: string;
};
export type PrintReport =
  | { readonly kind: 'progress'; readonly share: number }
  | { readonly kind: 'done'; readonly frames: number; readonly peak: number }
  | { readonly kind: 'failed'; readonly message: string };

const order = workerData as PrintOrder;
const report = (message: PrintReport) => parentPort!.postMessage(message);
const session = decodeSession(order.document);
const handles = new Map<string, number>();

const pcm = (mediaId: string, channel: number, from: number, into: Float32Array) => {
  const recording = order.recordings[mediaId];
  const { info, file } = recording;
  if (!handles.has(mediaId)) handles.set(mediaId, openSync(file, 'r'));
  const frameBytes = BYTES[info.encoding] * info.channels;
  const bytes = new Uint8Array(into.length * frameBytes);
  const got = readSync(handles.get(mediaId)!, bytes, 0, bytes.length, info.dataAt + from * frameBytes);
  decode(planar(bytes.subarray(0, got), info.encoding, info.channels)[channel], info.encoding, into);
};

const { rate } = settingsOf(session);
const partial = `${order.file}.part`;
const out = openSync(partial, 'w');
let frames = 0;
let peak = 0;
let clipped = 0;
let reported = 0;
const header = (count: number) => wavHeader({ rate, channels: 2, encoding: order.encoding, frames: count });
writeSync(out, header(0));
for (const { left, right, done, end } of renderMix(kernelModule(readFileSync(order.kernel)), session, pcm)) {
  for (const side of [left, right]) for (const x of side) peak = Math.max(peak, Math.abs(x));
  const block = encode([left, right], order.encoding);
  clipped += block.clipped;
  writeSync(out, block.bytes);
  frames += left.length;
  if (done / end - reported > 0.02) report({ kind: 'progress', share: (reported = done / end) });
  if (clipped) break;
}
if (clipped) {
  closeSync(out);
  rmSync(partial);
  report({
    kind: 'failed',
    message: `The mix goes over full scale at ${((frames - 4096) / rate > 0 ? (frames - 4096) / rate : 0).toFixed(1)} s. Lower the mix fader, or print as 32-bit float.`
  });
} else {
  writeSync(out, header(frames), 0, undefined, 0);
  fdatasyncSync(out);
  closeSync(out);
  renameSync(partial, order.file);
  report({ kind: 'done', frames, peak });
}
for (const handle of handles.values()) closeSync(handle);
