// A session's address alone leads to its Ledger.
import { redirect } from '@sveltejs/kit';
import type { PageLoad } from './$types';

export const load: PageLoad = ({ params }) => redirect(307, `/s/${params.session}/ledger`);
