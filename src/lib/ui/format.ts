// Numbers as people read and type them.

export { dbText } from '$core/session/select';

/** "L 30", "C", "R 12". */
export const panText = (pan: number): string => (pan === 0 ? 'C' : `${pan < 0 ? 'L' : 'R'} ${Math.abs(Math.round(pan))}`);

/** A level that was typed: "-6", "−6,5", "+2", "-inf", "−∞"; null where it is none. */
export function parseDb(text: string): number | null {
  const plain = text
    .trim()
    .toLowerCase()
    .replace(/[−–]/g, '-')
    .replace(',', '.')
    .replace(/\s*db$/, '');
  if (['-inf', '-∞', 'inf', '∞', 'off'].includes(plain)) return -Infinity;
  return /^[+-]?(\d+\.?\d*|\.\d+)$/.test(plain) ? Number(plain) : null;
}

/** A pan that was typed: "L30", "30 R", "-30", "c"; null where it is none. */
export function parsePan(text: string): number | null {
  const plain = text.trim().toLowerCase().replace(/[−–]/g, '-').replace(',', '.');
  if (['c', 'centre', 'center', ''].includes(plain)) return 0;
  const sided = /^([lr])\s*(\d+\.?\d*)$|^(\d+\.?\d*)\s*([lr])$/.exec(plain);
  if (sided) return Number(sided[2] ?? sided[3]) * ((sided[1] ?? sided[4]) === 'l' ? -1 : 1);
  return /^[+-]?(\d+\.?\d*)$/.test(plain) ? Number(plain) : null;
}

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
