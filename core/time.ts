// Positions on the timeline as people write them.

/** "0:27.914". */
export function timeText(frames: number, rate: number): string {
  const ms = Math.floor((frames / rate) * 1000 + 1e-6);
  const pad = (value: number, width: number) => String(value).padStart(width, '0');
  return `${Math.floor(ms / 60000)}:${pad(Math.floor(ms / 1000) % 60, 2)}.${pad(ms % 1000, 3)}`;
}

/** "bar 13 · 2 + 71 ms": bar, beat and milliseconds into the beat. */
export function barText(frames: number, rate: number, bpm: number, beatsPerBar: number): string {
  // A beat that falls between two frames begins with the nearest one.
  const beats = ((Math.round(frames) + 0.5) / rate) * (bpm / 60);
  const whole = Math.floor(beats);
  const ms = Math.floor(((beats - whole) * 60000) / bpm + 1e-6);
  return `bar ${Math.floor(whole / beatsPerBar) + 1} · ${(whole % beatsPerBar) + 1} + ${Math.max(0, ms)} ms`;
}

/** Frames of a time that was typed: "1:02.5", "62.5" or "3000000 f"; null where it is none. */
export function framesOf(text: string, rate: number): number | null {
  const plain = text.trim().replace(',', '.');
  const frames = /^(\d+)\s*(f|frames)$/.exec(plain);
  if (frames) return Number(frames[1]);
  const parts = /^(?:(?:(\d+):)?(\d+):)?(\d+(?:\.\d+)?)$/.exec(plain);
  if (!parts) return null;
  const [, hours = '0', minutes = '0', seconds] = parts;
  return Math.round((Number(hours) * 3600 + Number(minutes) * 60 + Number(seconds)) * rate);
}

/**
 * Frames of a position that was typed: as `framesOf`, or in bars, "bar 9", "bar 9 · 2", "bar 9 · 2 + 210 ms", "b9.2+210"; null where it is
 * none.
 */
export function positionOf(
  text: string,
  { rate, bpm, beatsPerBar }: { readonly rate: number; readonly bpm: number; readonly beatsPerBar: number }
): number | null {
  const parts = /^b(?:ar)?\s*(\d+)(?:\s*[·.]\s*(\d+))?(?:\s*\+\s*(\d+(?:\.\d+)?)\s*(?:ms)?)?$/i.exec(text.trim());
  if (!parts) return framesOf(text, rate);
  const [, bar, beat = '1', ms = '0'] = parts;
  if (Number(bar) < 1 || Number(beat) < 1 || Number(beat) > beatsPerBar) return null;
  const beats = (Number(bar) - 1) * beatsPerBar + Number(beat) - 1;
  return Math.round((beats * 60 * rate) / bpm + (Number(ms) * rate) / 1000);
}
