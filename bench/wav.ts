// 24-bit WAV data: encoding and de-interleaving of stereo in MB of file a second, beside writing each sample by DataView.
// npm run bench -- wav
import { decode, encode, planar } from '../core/formats/pcm.ts';

/** Frames of a block, as files are written and read here. */
const FRAMES = 1 << 15;
const MB = (FRAMES * 6) / 1e6;
const sides = [0, 1].map((side) => Float32Array.from({ length: FRAMES }, (_, i) => Math.sin(i * 0.01 + side) * 0.7));
const { bytes } = encode(sides, 's24');
const rate = (work: () => void): number => {
  for (let i = 0; i < 50; i++) work();
  const runs = Array.from({ length: 101 }, () => {
    const began = process.hrtime.bigint();
    work();
    return MB / (Number(process.hrtime.bigint() - began) / 1e9);
  });
  return Math.round(runs.sort((a, b) => a - b)[50]);
};
const plain = () => {
  const view = new DataView(new ArrayBuffer(FRAMES * 6));
  for (let i = 0; i < FRAMES; i++)
    for (let side = 0; side < 2; side++) {
      const value = Math.max(-8388608, Math.min(8388607, Math.round(sides[side][i] * 8388608)));
      view.setInt16(i * 6 + side * 3, value & 0xffff, true);
      view.setInt8(i * 6 + side * 3 + 2, value >> 16);
    }
};
const into = new Float32Array(FRAMES);
const encoding = rate(() => void encode(sides, 's24'));
const parting = rate(() => void planar(bytes, 's24', 2));
const [left] = planar(bytes, 's24', 2);
const decoding = rate(() => decode(left, 's24', into)) / 2;
const byDataView = rate(plain);
console.log(
  JSON.stringify({
    bench: 'wav',
    encodeMBs: encoding,
    deinterleaveMBs: parting,
    decodeMBs: Math.round(decoding),
    dataViewMBs: byDataView,
    encodeOverDataView: Number((encoding / byDataView).toFixed(1))
  })
);
