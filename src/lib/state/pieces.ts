// Sound played in pieces as it arrives, one after another without a gap; several sources of it in step, to the frame.

/** Frames fetched at a time, and seconds of sound kept ahead. */
const PIECE = 96_000;
const AHEAD = 1.5;

export type Source = {
  /** The samples of its sides from a frame on; fewer where it ends. */
  readonly piece: (from: number, frames: number) => Promise<Float32Array<ArrayBuffer>[]>;
  readonly out: AudioNode;
};
type Playing = {
  readonly context: AudioContext;
  readonly sources: readonly Source[];
  readonly rate: number;
  /** Frames: where it begins, and where it ends. */
  readonly from: number;
  readonly to: number;
  /** Whether it is still wanted. */
  readonly wanted: () => boolean;
  /** Hears when, by the context's clock, the first frame sounds. */
  readonly began: (when: number) => void;
};

/** Plays until the end or until it is no longer wanted; fails where a piece cannot be had. */
export async function playPieces({ context, sources, rate, from, to, wanted, began }: Playing): Promise<void> {
  let when = 0;
  for (let next = from; next < to && wanted();) {
    const frames = Math.min(PIECE, to - next);
    const pieces = await Promise.all(sources.map(({ piece }) => piece(next, frames)));
    if (!wanted()) return;
    if (when === 0) began((when = context.currentTime + 0.05));
    for (const [i, sides] of pieces.entries()) {
      const length = sides[0]?.length ?? 0;
      if (length === 0) continue;
      const buffer = context.createBuffer(sides.length, length, rate);
      sides.forEach((samples, side) => buffer.copyToChannel(samples, side));
      const node = new AudioBufferSourceNode(context, { buffer });
      node.connect(sources[i].out);
      node.start(when);
    }
    when += frames / rate;
    next += frames;
    while (wanted() && when - context.currentTime > AHEAD) await new Promise((resolve) => setTimeout(resolve, 100));
  }
}
