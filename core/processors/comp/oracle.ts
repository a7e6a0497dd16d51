// The compressor's oracle: float64, one frame after the other, levels by Math.log10 and gains by **.
import { fourfold, type Oracle } from '../oracle.ts';
import { characterOf, compReduction, KEY_OPEN, lastingOf, makeUpOf, RMS_MS } from './params.ts';
import { eqOracle } from '../eq/oracle.ts';

type Values = Readonly<Record<string, number>>;
const follow = (ms: number, rate: number) => (ms <= 0 ? 1 : 1 - Math.exp(-1000 / (ms * rate)));

/** Key filters as an equaliser's passes. */
function keyed(signal: Float64Array, v: Values, rate: number): Float64Array {
  const bands: Record<string, number> = {};
  for (let i = 1; i <= 6; i++)
    Object.assign(bands, {
      [`b${i}.on`]: 0,
      [`b${i}.type`]: 0,
      [`b${i}.freq`]: 100,
      [`b${i}.gain`]: 0,
      [`b${i}.q`]: Math.SQRT1_2,
      [`b${i}.slope`]: 1
    });
  // The cascade scales by q / 0.71: exactly Butterworth here.
  const q = 0.71;
  if (v.keyHigh > KEY_OPEN.high) Object.assign(bands, { 'b1.on': 1, 'b1.type': 0, 'b1.freq': v.keyHigh, 'b1.q': q });
  if (v.keyLow < KEY_OPEN.low) Object.assign(bands, { 'b2.on': 1, 'b2.type': 5, 'b2.freq': v.keyLow, 'b2.q': q });
  return eqOracle(signal, bands, rate);
}

/** One or two sides, linked, with their keys. */
export function compOracle(sides: readonly Float64Array[], keys: readonly Float64Array[], v: Values, rate: number): Float64Array[] {
  const { attack, release, slow, colour } = characterOf(v);
  const listened = keys.map((key) => keyed(key, v, rate));
  const fresh = follow(v.detector >= 0.5 ? RMS_MS : 0, rate);
  const squares = listened.map(() => 0);
  const fast = { attack: follow(attack, rate), release: follow(release, rate) };
  const lasts = lastingOf({ attack, release });
  const late = { attack: follow(lasts.attack, rate), release: follow(lasts.release, rate) };
  const gained = sides.map((side) => new Float64Array(side.length));
  const wet = (v.mix / 100) * 10 ** (makeUpOf(v) / 20);
  let [z, lasting] = [0, 0];
  for (let n = 0; n < sides[0].length; n++) {
    listened.forEach((key, i) => (squares[i] = fresh * key[n] * key[n] + (1 - fresh) * squares[i]));
    const target = compReduction(v, 10 * Math.log10(Math.max(1e-14, ...squares)));
    z += (target < z ? fast.attack : fast.release) * (target - z);
    if (slow) lasting += (target < lasting ? late.attack : late.release) * (target - lasting);
    sides.forEach((side, i) => (gained[i][n] = side[n] * wet * 10 ** (Math.min(z, lasting) / 20)));
  }
  if (v.listen >= 0.5) return listened;
  return gained.map((bent, i) => {
    const lost = colour > 0 ? fourfold(bent, (x) => x - x / Math.sqrt(1 + colour * x * x)) : new Float64Array(bent.length);
    return bent.map((x, n) => sides[i][n] * (1 - v.mix / 100) + x - lost[n]);
  });
}

export const oracle: Oracle = (sides, { key, values, rate }) => compOracle(sides, key, values, rate);
