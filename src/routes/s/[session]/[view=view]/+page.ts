// Loads the view that the address names.
import { viewAt } from '$lib/views/index';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params }) => {
  const view = viewAt(params.view)!;
  return { name: view.name, view: (await view.load()).default };
};
