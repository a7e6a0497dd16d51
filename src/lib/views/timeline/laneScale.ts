// Where a lane's values stand in its row, and as they are written and typed.
import type { LaneKind } from '$core/lanes/kinds';
import { clampTo } from '$core/lanes/kinds';
import { dbText, panText, parseDb, parsePan } from '$lib/ui/format';
import { dbAt, railAt } from '$lib/ui/scale';

const isPin = ({ unit, min, max }: LaneKind) => unit === '' && min === -100 && max === 100;

/** A value's height, 0 at the bottom … 1 at the top: levels as on the level rail, ratios by their logarithm, left at the top. */
export function heightOf(kind: LaneKind, value: number): number {
  if (kind.scale === 'level') return railAt(value);
  if (kind.scale === 'ratio') return Math.log(value / kind.min) / Math.log(kind.max / kind.min);
  const share = (value - kind.min) / (kind.max - kind.min);
  return isPin(kind) ? 1 - share : share;
}

/** The value at a height, brought into what the lane can be. */
export function valueAtHeight(kind: LaneKind, height: number): number {
  const at = Math.max(0, Math.min(1, height));
  if (kind.scale === 'level') return clampTo(kind, Math.round(dbAt(at) * 10) / 10);
  if (kind.scale === 'ratio') return clampTo(kind, Number((kind.min * (kind.max / kind.min) ** at).toPrecision(3)));
  const share = isPin(kind) ? 1 - at : at;
  const value = kind.min + share * (kind.max - kind.min);
  const step = kind.max - kind.min > 20 ? 1 : 0.01;
  return clampTo(kind, Math.round(value / step) * step);
}

/** "−6.0", "L 30", "muted", "1200 Hz". */
export function valueText(kind: LaneKind, value: number): string {
  if (kind.scale === 'level') return dbText(value);
  if (kind.scale === 'steps') return kind.choices?.[Math.round(value)] ?? String(value);
  if (isPin(kind)) return panText(value);
  const number = Number(value.toPrecision(4));
  return `${String(number).replace('-', '−')}${kind.unit ? ` ${kind.unit}` : ''}`;
}

/** A value that was typed, or null. */
export function parseValue(kind: LaneKind, typed: string): number | null {
  const found = parsed(kind, typed);
  return found === null || Number.isNaN(found) || (found === -Infinity && kind.scale !== 'level') ? null : clampTo(kind, found);
}
function parsed(kind: LaneKind, typed: string): number | null {
  if (kind.scale === 'level') return parseDb(typed);
  const plain = typed.trim().toLowerCase();
  const choice = kind.choices?.findIndex((each) => each.toLowerCase().startsWith(plain)) ?? -1;
  if (choice >= 0 && plain) return choice;
  if (isPin(kind)) return parsePan(typed);
  const number = /^[-−+]?\d+(?:[.,]\d+)?/.exec(plain)?.[0];
  return number ? Number(number.replace('−', '-').replace(',', '.')) : null;
}
