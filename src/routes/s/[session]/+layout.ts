// Loads the session for all its views.
import { error } from '@sveltejs/kit';
import type { SessionAnswer } from '$lib/state/session.svelte';
import type { LayoutLoad } from './$types';

export const load: LayoutLoad = async ({ params, fetch }) => {
  const response = await fetch(`/api/sessions/${params.session}`);
  if (!response.ok)
    error(
      response.status,
      response.status === 404 ? 'This session is no longer here. It may lie in the bin.' : 'The session could not be loaded.'
    );
  return { id: params.session, answer: (await response.json()) as SessionAnswer };
};
