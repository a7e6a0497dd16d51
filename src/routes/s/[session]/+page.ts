// A session's address alone leads to its first view.
import { redirect } from '@sveltejs/kit';
import { firstView } from '$lib/views/index';
import type { PageLoad } from './$types';

export const load: PageLoad = ({ params }) => redirect(307, `/s/${params.session}/${firstView}`);
