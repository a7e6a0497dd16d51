// Links among the views.
import type { View } from '../view';

export const links: View = { path: 'links', name: 'Links', load: () => import('./LinksView.svelte') };
