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

/** Bytes as people say them: "48.2 MB". Decimal, as disks are sold. */
export function sizeText(bytes: number): string {
  const units = ['B', 'kB', 'MB', 'GB', 'TB'];
  const place = bytes < 1 ? 0 : Math.min(units.length - 1, Math.floor(Math.log10(bytes) / 3));
  const value = bytes / 1000 ** place;
  return `${place === 0 || value >= 100 ? Math.round(value) : value.toFixed(1)} ${units[place]}`;
}

const AGES: readonly (readonly [seconds: number, unit: Intl.RelativeTimeFormatUnit])[] = [
  [3600, 'minute'],
  [86_400, 'hour'],
  [86_400 * 31, 'day'],
  [86_400 * 365, 'month'],
  [Infinity, 'year']
];
const relative = new Intl.RelativeTimeFormat('en', { numeric: 'auto' });
/** How long ago a moment (ISO 8601) was, or how far ahead it is: "just now", "3 hours ago", "in 30 days". */
export function agoText(moment: string, now = Date.now()): string {
  const seconds = (Date.parse(moment) - now) / 1000;
  if (Math.abs(seconds) < 60) return 'just now';
  const place = AGES.findIndex(([limit]) => Math.abs(seconds) < limit);
  return relative.format(Math.round(seconds / (place === 0 ? 60 : AGES[place - 1][0])), AGES[place][1]);
}

/** A length in seconds as a clock shows it: "3:07", "1:02:09". */
export function clockText(seconds: number): string {
  const whole = Math.round(seconds);
  const two = (value: number) => String(value).padStart(2, '0');
  const minutes = Math.floor(whole / 60) % 60;
  return whole < 3600 ? `${minutes}:${two(whole % 60)}` : `${Math.floor(whole / 3600)}:${two(minutes)}:${two(whole % 60)}`;
}
