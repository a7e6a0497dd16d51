// GET: the delivery sheet of a finished job, a page to print. ?json: delivery.json.
import { json } from '@sveltejs/kit';
import { app } from '$lib/server/app';
import { deliveryOf, sheetOf } from '$lib/server/deliveries';
import { refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params, url }) => {
  const delivery = deliveryOf(await (await app()).prints.get(params.id));
  if (!delivery.ok) return refused(delivery.error);
  if (url.searchParams.has('json')) return json(delivery.value);
  return new Response(sheetOf(delivery.value), { headers: { 'Content-Type': 'text/html; charset=utf-8', 'Cache-Control': 'no-store' } });
};
