// The front door leads to the Ledger of the first session.
import { redirect } from '@sveltejs/kit';
import { app } from '$lib/server/app';
import { DEMO } from '$lib/server/seed';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async () => {
  const list = await (await app()).sessions.list();
  const session = list.find(({ id }) => id === DEMO) ?? list[0];
  redirect(307, `/s/${session.id}/ledger`);
};
