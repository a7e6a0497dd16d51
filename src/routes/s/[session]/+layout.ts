// Loads the session for all its views; the page alone draws it, so nothing is rendered on the server.
import { error } from '@sveltejs/kit';
import type { SessionAnswer } from '$lib/state/session.svelte';
import type { LayoutLoad } from './$types';

export const ssr = false;

export const load: LayoutLoad = async ({ params, fetch }) => {
  const response = await fetch(`/api/sessions/${params.session}`);
  if (!response.ok)
    error(
      response.status,
      response.status === 404 ? 'This session is no longer here. It may lie in the bin.' : 'The session could not be loaded.'
    );
  return { id: params.session, answer: (await response.json()) as SessionAnswer };
};
