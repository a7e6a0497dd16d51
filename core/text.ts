// Text that every part of the product can hold: database, packages, XML, screens. No control characters, no half of a letter.

/** C0, DEL and C1 controls, what XML forbids, and halves of surrogate pairs, which the `u` flag finds only where they stand alone. */
const STRANGE = '[\\u0000-\\u001f\\u007f-\\u009f\\ufffe\\uffff\\ud800-\\udfff]';
const strange = new RegExp(STRANGE, 'u');
const everyStrange = new RegExp(STRANGE, 'gu');

/** A JSON Schema pattern that plain text fits. */
export const PLAIN_PATTERN = `^[^${STRANGE.slice(1)}*$`;

/** Whether text holds nothing but letters that can be kept and shown. */
export const isPlain = (text: string): boolean => !strange.test(text);

/** Text of at most `most` UTF-16 units, never cut through a letter. */
export function cut(text: string, most: number): string {
  if (text.length <= most) return text;
  const last = text.charCodeAt(most - 1);
  return text.slice(0, last >= 0xd800 && last <= 0xdbff ? most - 1 : most);
}

/** Text from outside as it can be kept: `cleaned('a\u0000b', 9)` is "a b". */
export const cleaned = (text: string, most: number): string => cut(text.replace(everyStrange, ' ').trim(), most).trim();

/** Words that every object answers to: as ids they would be taken for something else. */
export const isReserved = (id: string): boolean => id in Object.prototype;
