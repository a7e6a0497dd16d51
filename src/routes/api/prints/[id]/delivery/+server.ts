// GET: a finished job as a ZIP of its files, delivery.json and the delivery sheet, streamed.
import { app } from '$lib/server/app';
import { deliveryOf, deliveryStream } from '$lib/server/deliveries';
import { refused } from '$lib/server/respond';
import { attachment, streamed } from '$lib/server/streamed';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
  const { prints } = await app();
  const print = await prints.get(params.id);
  const delivery = deliveryOf(print);
  if (!delivery.ok) return refused(delivery.error);
  const name = `${delivery.value.about.session} ${print!.startedAt.slice(0, 10)}.zip`;
  return streamed(deliveryStream(prints, print!, delivery.value), {
    'Content-Type': 'application/zip',
    'Content-Disposition': attachment(name)
  });
};
