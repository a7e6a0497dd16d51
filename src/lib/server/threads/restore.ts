// The thread that opens backups: large ones hold nobody up, and what is in them cannot take the server with it.
import { checkTables } from '../backup/check.ts';
import { unpackBackup } from '../backup/read.ts';

export type RestoreStep =
  | { readonly step: 'unpack'; readonly file: string; readonly folder: string; readonly known: readonly string[] }
  | { readonly step: 'check'; readonly folder: string; readonly out: string; readonly counts: Readonly<Record<string, number>> };

export default (asked: RestoreStep) =>
  asked.step === 'unpack' ? unpackBackup(asked.file, asked.folder, asked.known) : checkTables(asked.folder, asked.out, asked.counts);
