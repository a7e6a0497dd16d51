// Loads the view that the address names.
import { error } from '@sveltejs/kit';
import { viewAt } from '$lib/views/index';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params }) => {
  const view = viewAt(params.view);
  if (!view) error(404, 'A session has no such view.');
  return { name: view.name, view: (await view.load()).default };
};
