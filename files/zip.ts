// ZIP files: read for packages and backups, an entry at a time as a stream; written entry after entry, and let go of at any moment.
import { Readable } from 'node:stream';
import { finished } from 'node:stream/promises';
import yauzl from 'yauzl';
import yazl from 'yazl';

/** Opens a file by its directory, which stands at its end: one that was cut off cannot be opened. */
export const openZip = (file: string): Promise<yauzl.ZipFile> =>
  new Promise((resolve, reject) =>
    yauzl.open(file, { lazyEntries: true, autoClose: false, strictFileNames: true }, (error, zip) => (error ? reject(error) : resolve(zip)))
  );

export async function entriesOf(zip: yauzl.ZipFile): Promise<yauzl.Entry[]> {
  const entries: yauzl.Entry[] = [];
  return new Promise((resolve, reject) => {
    zip.on('error', reject);
    zip.on('end', () => resolve(entries));
    zip.on('entry', (entry: yauzl.Entry) => {
      entries.push(entry);
      zip.readEntry();
    });
    zip.readEntry();
  });
}

export const streamOf = (zip: yauzl.ZipFile, entry: yauzl.Entry): Promise<Readable> =>
  new Promise((resolve, reject) => zip.openReadStream(entry, (error, stream) => (error ? reject(error) : resolve(stream))));

export async function textOf(stream: Readable): Promise<string> {
  const parts: Buffer[] = [];
  for await (const part of stream) parts.push(part as Buffer);
  return Buffer.concat(parts).toString('utf8');
}

export type ZipEntry = {
  readonly name: string;
  /** Its contents; a stream is read to its end before the next entry is asked for, and destroyed where the ZIP is. */
  readonly from: Readable | string;
  readonly compress?: boolean;
  readonly mtime: Date;
};

/**
 * A ZIP of entries, as a stream. Each entry is asked for when the one before has been read; whatever becomes of the stream, the entries'
 * `finally` is reached, and no source stays open.
 */
export function zipOf(entries: AsyncGenerator<ZipEntry, void, void>): Readable {
  const zip = new yazl.ZipFile();
  const output = zip.outputStream as unknown as Readable;
  let source: Readable | null = null;
  zip.on('error', (error) => output.destroy(error as Error));
  output.on('close', () => source?.destroy());
  const write = async () => {
    for await (const { name, from, compress = false, mtime } of entries) {
      source = typeof from === 'string' ? Readable.from([Buffer.from(from)]) : from;
      // Said to whoever waits for it below; one that breaks while nobody does is no fault of ours.
      source.on('error', () => undefined);
      if (output.destroyed) return void source.destroy();
      zip.addReadStream(source, name, { compress, mtime });
      await finished(source, { writable: false });
    }
    zip.end();
  };
  write().catch((error: Error) => output.destroy(error));
  return output;
}
