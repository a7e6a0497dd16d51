// What the rows of the Timeline draw on: their canvas at the screen's own density, and the colours of the theme.
export type Paints = {
  readonly family: string;
  readonly ink: string;
  readonly muted: string;
  readonly line: string;
  readonly sheet: string;
  readonly kelp: string;
  readonly persimmon: string;
};

/** The theme's colours as they are now; `ground` is what the canvas lies on. */
export function paintsOf(canvas: HTMLCanvasElement, ground: '--paper' | '--sheet'): Paints {
  const styles = getComputedStyle(canvas);
  const of = (name: string) => styles.getPropertyValue(name).trim();
  return {
    family: styles.color,
    ink: of('--ink'),
    muted: of('--muted'),
    line: of('--hair'),
    sheet: of(ground),
    kelp: of('--kelp'),
    persimmon: of('--persimmon')
  };
}

/** Gives it so many pixels of the page, and says how many of the screen each has. A size that stays keeps the picture. */
export function fitted(canvas: HTMLCanvasElement, width: number, height: number): number {
  const scale = window.devicePixelRatio || 1;
  const [wide, tall] = [Math.round(width * scale), Math.round(height * scale)];
  if (canvas.width !== wide) canvas.width = wide;
  if (canvas.height !== tall) canvas.height = tall;
  return scale;
}
