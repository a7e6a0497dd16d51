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

export { barText, timeText } from '$core/time';
