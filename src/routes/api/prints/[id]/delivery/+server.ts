// GET: a finished job as a ZIP of its files, delivery.json and the delivery sheet, streamed.
import { Readable } from 'node:stream';
import { app } from '$lib/server/app';
import { deliveryOf, deliveryStream } from '$lib/server/deliveries';
import { refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
  const { prints } = await app();
  const print = await prints.get(params.id);
  const delivery = deliveryOf(print);
  if (!delivery.ok) return refused(delivery.error);
  const stream = await deliveryStream(prints, print!, delivery.value);
  const name = `${delivery.value.about.session} ${print!.startedAt.slice(0, 10)}`;
  return new Response(Readable.toWeb(stream) as ReadableStream, {
    headers: {
      'Content-Type': 'application/zip',
      'Content-Disposition': `attachment; filename="${name.replace(/[^\w .-]/g, '-')}.zip"; filename*=UTF-8''${encodeURIComponent(`${name}.zip`)}`
    }
  });
};
