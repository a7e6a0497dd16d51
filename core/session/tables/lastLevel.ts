// What a level at −∞ was before.
import * as is from '../column.ts';

/**
 * Means something while the level is −∞. A number: a linked move took it there from that, and the next linked move counts from it.
 * −∞: it was turned off by itself and stays so. Null: it never had a level, and takes that of the one it is linked with.
 */
export const lastLevel = () => is.orNull(is.level({ unit: 'dB' }), { since: 5 });
