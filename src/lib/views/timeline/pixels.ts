// A picture made pixel by pixel: thousands of thin columns a row are written faster than a canvas draws them.
export type Pixels = { readonly image: ImageData; readonly words: Uint32Array; readonly width: number; readonly height: number };

const kept = new WeakMap<HTMLCanvasElement, Pixels>();

/** The pixels of a canvas, all transparent, as large as it is now. */
export function pixelsOf(canvas: HTMLCanvasElement): Pixels {
  const { width, height } = canvas;
  let found = kept.get(canvas);
  if (found?.width !== width || found.height !== height) {
    const image = new ImageData(Math.max(1, width), Math.max(1, height));
    kept.set(canvas, (found = { image, words: new Uint32Array(image.data.buffer), width, height }));
  }
  found.words.fill(0);
  return found;
}

let probe: CanvasRenderingContext2D | null = null;
const known = new Map<string, readonly [number, number, number]>();

/** A CSS colour, whatever its space, and an opacity, as a pixel. */
export function pixelOf(colour: string, opacity = 1): number {
  let rgb = known.get(colour);
  if (!rgb) {
    probe ??= new OffscreenCanvas(1, 1).getContext('2d', { willReadFrequently: true }) as unknown as CanvasRenderingContext2D;
    probe.fillStyle = colour;
    probe.fillRect(0, 0, 1, 1);
    const [r, g, b] = probe.getImageData(0, 0, 1, 1).data;
    known.set(colour, (rgb = [r, g, b]));
  }
  return ((Math.round(opacity * 255) << 24) | (rgb[2] << 16) | (rgb[1] << 8) | rgb[0]) >>> 0;
}

/** Fills from pixel `left`, `top` to before `right`, `bottom`, as far as that lies within. */
export function box({ words, width, height }: Pixels, left: number, top: number, right: number, bottom: number, pixel: number): void {
  const [x0, x1] = [Math.max(0, Math.round(left)), Math.min(width, Math.round(right))];
  const y1 = Math.min(height, Math.round(bottom));
  if (x0 >= x1) return;
  for (let y = Math.max(0, Math.round(top)); y < y1; y++) words.fill(pixel, y * width + x0, y * width + x1);
}

/** Fills one column of pixels. */
export function column({ words, width, height }: Pixels, x: number, top: number, bottom: number, pixel: number): void {
  const last = Math.min(height, bottom) * width;
  for (let at = Math.max(0, top) * width + x; at < last; at += width) words[at] = pixel;
}
