// What may stand in the place of a view in an address: the path of one of ours.
import { viewAt } from '$lib/views/index';

export const match = (path: string): boolean => viewAt(path) !== undefined;
