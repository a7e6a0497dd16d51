// A finished job as a delivery: its files, delivery.json and the delivery sheet in one ZIP, streamed as it is read from disk.
import type { Readable } from 'node:stream';
import { render } from 'svelte/server';
import yazl from 'yazl';
import { dithered } from '$core/prints/bars';
import { DELIVERY_FORMAT, type Delivery } from '$core/prints/delivery';
import { ok, refuse, type Result } from '$core/result';
import { nullSentence } from '$files/prints/proof';
import DeliverySheet from '$lib/delivery/DeliverySheet.svelte';
import type { Prints } from './prints';
import type { Print } from './printRows';

/** A job's delivery, or why it has none. */
export function deliveryOf(print: Print | null): Result<Delivery> {
  if (!print) return refuse('not-found', 'There is no print of this id.');
  if (print.status !== 'done') return refuse('not-found', 'This print is not done: there is nothing to deliver yet.');
  if (!print.about) return refuse('not-found', 'This print was made before deliveries were kept. Print it again.');
  const { order, about } = print;
  return ok({
    format: DELIVERY_FORMAT,
    version: 1,
    ...{ printed: print.startedAt, revision: print.revision, encoding: order.format, rate: print.rate },
    dither: dithered(order.format, order.dither),
    ...{ frames: print.frames, ranges: order.ranges, about },
    files: print.files.map(({ name, kind, title, made, additive, channels, frames, bytes, peakDb, truePeakDb, lufs, rangeLu, sha256 }) => ({
      ...{ name, kind, of: title, made, additive, channels, frames, bytes, peakDb, truePeakDb, lufs, rangeLu, sha256 }
    })),
    nulls: print.nulls.map((each) => {
      const { range, of, name, db, bar, holds } = each;
      return { range, of, name, db, bar, holds, words: nullSentence(each) };
    }),
    notes: print.notes
  });
}

/** The sheet as a page of its own: nothing is fetched for it. */
export function sheetOf(delivery: Delivery): string {
  const { head, body } = render(DeliverySheet, { props: { delivery } });
  return `<!doctype html>\n<html lang="en">\n<head>\n<meta charset="utf-8">\n<meta name="viewport" content="width=device-width">\n${head}\n</head>\n<body>\n${body}\n</body>\n</html>\n`;
}

export const SHEET_NAME = 'delivery.html';

/** The ZIP; files are stored as they are, since compressing sound would gain little. The job stays until it is read to its end. */
export async function deliveryStream(prints: Prints, print: Print, delivery: Delivery): Promise<Readable> {
  const release = prints.hold(print.id);
  try {
    const files = await Promise.all(print.files.map(({ id }) => prints.file(print.id, id)));
    const zip = new yazl.ZipFile();
    const mtime = new Date(print.startedAt);
    zip.addBuffer(Buffer.from(`${JSON.stringify(delivery, null, 2)}\n`), 'delivery.json', { mtime });
    zip.addBuffer(Buffer.from(sheetOf(delivery)), SHEET_NAME, { mtime });
    for (const file of files) if (file) zip.addFile(file.file, file.name, { compress: false, mtime });
    zip.end();
    const stream = zip.outputStream as unknown as Readable;
    zip.on('error', (error) => stream.destroy(error as Error));
    stream.once('close', release);
    stream.once('end', release);
    stream.once('error', release);
    return stream;
  } catch (error) {
    release();
    throw error;
  }
}
