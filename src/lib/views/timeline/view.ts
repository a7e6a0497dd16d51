// The Timeline among the views.
import type { View } from '../view';

export const timeline: View = { path: 'timeline', name: 'Timeline', load: () => import('./Timeline.svelte') };
