// Files that were chosen before there was a session for them: handed from the sessions page to the session's page, once.
let waiting: { readonly id: string; readonly files: readonly File[] } | null = null;

export const handFiles = (id: string, files: readonly File[]): void => void (waiting = { id, files });

/** What was handed to this session. */
export function takeFiles(id: string): readonly File[] {
  if (waiting?.id !== id) return [];
  const { files } = waiting;
  waiting = null;
  return files;
}

/** The first WAV file's sample rate, by its fmt chunk (RIFF, Microsoft 1991); null where there is none to tell by. */
export async function rateOf(files: readonly File[]): Promise<number | null> {
  const first = files.find(({ name }) => /\.(wav|bwf)$/i.test(name));
  if (!first) return null;
  const head = new DataView(await first.slice(0, 65_536).arrayBuffer());
  for (let at = 12; at + 16 <= head.byteLength;) {
    if (head.getUint32(at) === 0x666d7420) return head.getUint32(at + 12, true);
    at += 8 + head.getUint32(at + 4, true) + (head.getUint32(at + 4, true) & 1);
  }
  return null;
}
