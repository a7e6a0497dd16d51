// The Roster among the views.
import type { View } from '../view';

export const roster: View = { path: 'roster', name: 'Roster', load: () => import('./Roster.svelte') };
