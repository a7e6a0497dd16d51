// Names of files on disk, all made here: such that every file system takes them, however long they are in bytes, and no two are one.

/** What file systems count: bytes of UTF-8, with the ending. */
export const MOST_BYTES = 255;
/** Names that some file systems keep for devices. */
const RESERVED = /^(con|prn|aux|nul|com\d|lpt\d)$/i;
const STRANGE = /[\\/:*?"<>|]|[\p{Cc}\ufffe\uffff\ud800-\udfff]/u;

/** Bytes of text as UTF-8: 1 to 4 a letter. */
export function bytesOf(text: string): number {
  let bytes = 0;
  for (const letter of text) {
    const code = letter.codePointAt(0)!;
    bytes += code < 0x80 ? 1 : code < 0x800 ? 2 : code < 0x10000 ? 3 : 4;
  }
  return bytes;
}

/** The beginning of text that takes at most `most` bytes, never cut through a letter. */
export function cutBytes(text: string, most: number): string {
  let left = most;
  let kept = '';
  for (const letter of text) {
    left -= bytesOf(letter);
    if (left < 0) return kept;
    kept += letter;
  }
  return kept;
}

const trimmed = (text: string): string => text.replace(/[. ]+$/u, '').trim();

/**
 * Text as the name of a file, without an ending: what file systems refuse becomes "-", dots and spaces at the end go, composed letters
 * are one (NFC). `fileNameOf('A/B: take 2.')` is "A-B- take 2".
 */
export function fileNameOf(text: string, most = MOST_BYTES): string {
  const plain = trimmed(cutBytes(text.normalize('NFC').replace(new RegExp(STRANGE, 'gu'), '-').trim(), most));
  return plain === '' ? 'print' : RESERVED.test(plain) ? `${plain}-` : plain;
}

/** Whether a name from outside is one file's in a folder and nothing else: it may meet a path. */
export const isFileName = (name: unknown): name is string =>
  typeof name === 'string' && name !== '' && name !== '.' && name !== '..' && !/[\\/]|\p{Cc}/u.test(name) && bytesOf(name) <= MOST_BYTES;

export type Namer = (text: string, ending: string) => string;

/**
 * Gives names that are not taken yet, case and composition of letters aside: the second of a name is called "… 2".
 * `createNamer()('Radio', 'wav')` → "Radio.wav"; once more → "Radio 2.wav".
 */
export function createNamer(taken: Iterable<string> = []): Namer {
  const alike = (name: string) => name.normalize('NFC').toLowerCase();
  const known = new Set([...taken].map(alike));
  return (text, ending) => {
    const after = ending && `.${ending}`;
    for (let n = 1; ; n++) {
      const tail = `${n === 1 ? '' : ` ${n}`}${after}`;
      const name = `${fileNameOf(text, MOST_BYTES - bytesOf(tail))}${tail}`;
      if (known.has(alike(name))) continue;
      known.add(alike(name));
      return name;
    }
  };
}
