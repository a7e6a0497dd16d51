// Positions on the timeline as people write them.

/** "0:27.914". */
export function timeText(frames: number, rate: number): string {
  const ms = Math.floor((frames / rate) * 1000 + 1e-6);
  const pad = (value: number, width: number) => String(value).padStart(width, '0');
  return `${Math.floor(ms / 60000)}:${pad(Math.floor(ms / 1000) % 60, 2)}.${pad(ms % 1000, 3)}`;
}

/** "bar 13 · 2 + 71 ms": bar, beat and milliseconds into the beat. */
export function barText(frames: number, rate: number, bpm: number, beatsPerBar: number): string {
  const beats = (frames / rate) * (bpm / 60);
  const whole = Math.floor(beats + 1e-9);
  const ms = Math.floor(((beats - whole) * 60000) / bpm + 1e-6);
  return `bar ${Math.floor(whole / beatsPerBar) + 1} · ${(whole % beatsPerBar) + 1} + ${Math.max(0, ms)} ms`;
}
