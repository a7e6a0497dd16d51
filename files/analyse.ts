// Analysis on import: reads a recording once, finds samples that are no numbers, measures it, writes its peaks pyramid.
import { closeSync, openSync, readSync, writeFileSync } from 'node:fs';
import { BYTES, decodeAll } from '$core/formats/pcm';
import type { WavInfo } from '$core/formats/wav';
import { loudnessMeter, type Loudness } from '$core/measure/loudness';
import { encodePeaks, peakBuilder } from '$core/measure/peaks';

export type Analysis = { readonly peak: number; readonly firstBad: number; readonly loudness: Loudness[] };

const FRAMES = 65536;

export function analyse({ file, info, peaksFile }: { file: string; info: WavInfo; peaksFile: string }): Analysis {
  const frameBytes = BYTES[info.encoding] * info.channels;
  const bytes = new Uint8Array(FRAMES * frameBytes);
  const builder = peakBuilder();
  const meter = loudnessMeter(info.rate);
  const handle = openSync(file, 'r');
  try {
    for (let at = 0; at < info.frames; at += FRAMES) {
      const count = Math.min(FRAMES, info.frames - at);
      const got = readSync(handle, bytes, 0, count * frameBytes, info.dataAt + at * frameBytes);
      const samples = decodeAll(bytes.subarray(0, got), info.encoding, info.channels);
      builder.push(samples);
      meter.push(samples);
    }
  } finally {
    closeSync(handle);
  }
  const { peak, firstBad, ...peaks } = builder.finish();
  writeFileSync(peaksFile, encodePeaks(peaks));
  return { peak, firstBad, loudness: meter.finish() };
}
