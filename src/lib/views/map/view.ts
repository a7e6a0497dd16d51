// The Map among the views.
import type { View } from '../view';

export const map: View = { path: 'map', name: 'Map', load: () => import('./MapView.svelte') };
