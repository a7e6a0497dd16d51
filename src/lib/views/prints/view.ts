// The Prints among the views.
import type { View } from '../view';

export const prints: View = { path: 'prints', name: 'Prints', load: () => import('./Prints.svelte') };
