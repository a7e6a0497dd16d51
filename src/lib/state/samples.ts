// Samples of recordings in the page: fetched in blocks for pictures close up and for hearing single recordings.
import { decode } from '$core/formats/pcm';

type Part = { readonly sha256: string; readonly channels: number; readonly encoding: Parameters<typeof decode>[1]; readonly bytes: number };

/** A stretch of a recording, by its hash: the samples of each of its channels; none past its end. */
export async function fetchSamples(sha256: string, from: number, frames: number): Promise<Float32Array<ArrayBuffer>[]> {
  const response = await fetch(`/api/pcm?from=${from}&frames=${frames}&media=${sha256}`);
  if (!response.ok) throw new Error('The recording could not be read.');
  const bytes = new Uint8Array(await response.arrayBuffer());
  const head = new DataView(bytes.buffer).getUint32(0, true);
  const [part] = JSON.parse(new TextDecoder().decode(bytes.subarray(4, 4 + head))) as Part[];
  if (!part) return [];
  return Array.from({ length: part.channels }, (_, side) => {
    const samples = new Float32Array(frames);
    decode(bytes.subarray(4 + head + side * part.bytes, 4 + head + (side + 1) * part.bytes), part.encoding, samples);
    return samples;
  });
}

const BLOCK = 32_768;
/** Blocks kept: those asked for last. */
const MOST = 256;

/** Blocks of recordings for pictures; `arrived` is told when one more is there. */
export function createSampleBlocks(arrived: () => void) {
  /** Null while it is on its way, or could not be had. */
  const blocks = new Map<string, readonly Float32Array[] | null>();
  const block = (sha256: string, number: number): readonly Float32Array[] | null => {
    const key = `${sha256} ${number}`;
    const known = blocks.get(key);
    if (known !== undefined) return known;
    if (blocks.size >= MOST) blocks.delete(blocks.keys().next().value!);
    blocks.set(key, null);
    const take = (sides: readonly Float32Array[]) => {
      blocks.set(key, sides);
      arrived();
    };
    // Without it the picture stays as coarse as peaks are; it is asked for again when the block is needed anew.
    fetchSamples(sha256, number * BLOCK, BLOCK).then(take, () => void blocks.delete(key));
    return null;
  };
  return {
    /** A sample of a channel, or null where it is not here yet. */
    at: (sha256: string, channel: number, frame: number): number | null => {
      const number = Math.floor(frame / BLOCK);
      return block(sha256, number)?.[channel]?.[frame - number * BLOCK] ?? null;
    },
    /** The samples of a block from a frame of it on, or null. */
    from: (sha256: string, channel: number, frame: number): Float32Array | null => {
      const number = Math.floor(frame / BLOCK);
      return block(sha256, number)?.[channel]?.subarray(frame - number * BLOCK) ?? null;
    }
  };
}
export type SampleBlocks = ReturnType<typeof createSampleBlocks>;
