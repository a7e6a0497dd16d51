// Every view of a session, a line each, in the order of the header. Address, title, header and palette follow from it.
import { ledger } from './ledger/view';
import { links } from './links/view';
import { map } from './map/view';
import { prints } from './prints/view';
import { roster } from './roster/view';
import { timeline } from './timeline/view';
import type { View } from './view';

export const views: readonly View[] = [roster, ledger, map, links, timeline, prints];

/** What a session's address alone leads to. */
export const firstView = ledger.path;
export const viewAt = (path: string): View | undefined => views.find((view) => view.path === path);
