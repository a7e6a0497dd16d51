// The demo's thread: synthesises its recordings and hands each over as a 24-bit WAV file.
import { parentPort } from 'node:worker_threads';
import { encode } from '$core/formats/pcm';
import { wavHeader } from '$core/formats/wav';
import { recordings } from '$demo/tracks';
import { RATE } from '$demo/voices';

for (const { file, channels } of recordings()) {
  const { bytes, clipped } = encode(channels, 's24');
  if (clipped) throw new Error(`The demo's ${file} clips.`);
  const header = wavHeader({ rate: RATE, channels: channels.length, encoding: 's24', frames: channels[0].length });
  parentPort!.postMessage({ file, wav: Buffer.concat([header, bytes]) });
}
