// A finished job as a delivery: its files, delivery.json and the delivery sheet in one ZIP, streamed as it is read from disk.
import { createReadStream } from 'node:fs';
import type { Readable } from 'node:stream';
import { render } from 'svelte/server';
import { dithered } from '$core/prints/bars';
import { DELIVERY_FORMAT, type Delivery } from '$core/prints/delivery';
import { ok, refuse, type Result } from '$core/result';
import { nullSentence } from '$files/prints/proof';
import { zipOf } from '$files/zip';
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
export function deliveryStream(prints: Prints, print: Print, delivery: Delivery): Readable {
  const mtime = new Date(print.startedAt);
  return zipOf(
    (async function* () {
      const release = prints.hold(print.id);
      try {
        yield { name: 'delivery.json', from: `${JSON.stringify(delivery, null, 2)}\n`, compress: true, mtime };
        yield { name: SHEET_NAME, from: sheetOf(delivery), compress: true, mtime };
        for (const { id } of print.files) {
          const found = await prints.file(print.id, id);
          if (found) yield { name: found.name, from: createReadStream(found.file), mtime };
        }
      } finally {
        release();
      }
    })()
  );
}
