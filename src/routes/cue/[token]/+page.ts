// Loads what a player sees; the page alone draws it.
import { error } from '@sveltejs/kit';
import type { CueView } from '$core/routing/cueView';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, fetch }) => {
  const response = await fetch(`/api/cue/${params.token}`);
  if (!response.ok) error(response.status === 404 ? 404 : response.status, 'This page is closed. Ask the engineer for a new address.');
  return { token: params.token, view: (await response.json()) as CueView };
};
