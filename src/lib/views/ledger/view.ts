// The Ledger among the views.
import type { View } from '../view';

export const ledger: View = { path: 'ledger', name: 'Ledger', load: () => import('./Ledger.svelte') };
