// Columns that later versions added, with the values that rows from before stand for: documents, and histories that bring back
// what was removed before the column was.
import type { TableName } from './entities.ts';

type Row = Readonly<Record<string, unknown>>;

const ADDED: { readonly [T in TableName]?: Row } = {
  settings: { zero: 0, muteClosesCue: false, soloDimDb: null, lastSolo: [], interfaceName: 'Quay Eight', interfaceOutputs: 8 },
  channel: {
    ...{ trimDb: 0, polarity: false, role: '', byHand: '', hidden: false, resting: false },
    ...{ pinned: false, column: 0, columnHidden: false, pattern: null, panRight: null, spread: 100 }
  },
  send: { mono: false, pan: null },
  insert: { keyId: null, keyTap: 'post' },
  clip: { channel: 0, side: 'both' },
  media: { origin: null, loudness: null }
};

/** Tables that later versions added. */
export const ADDED_TABLES: readonly TableName[] = ['divider', 'showing', 'cueToken'];

/** A whole row with every column that it lacks, as it arrived otherwise. */
export const completed = (table: TableName, row: Row): Row => ({ ...ADDED[table], ...row });
