// isotaxis backup, isotaxis restore: everything in the data directory into one file, and back.
import { readBackup, writeBackup } from '$lib/server/backup/offline';
import { DirectoryInUse } from '$lib/server/lock';
import { Failure, must } from './failure';

/** That the directory is in use is an answer, not a fault. */
const inWords = async <T>(work: Promise<T>): Promise<T> => {
  try {
    return await work;
  } catch (error) {
    throw error instanceof DirectoryInUse ? new Failure(error.message) : error;
  }
};

const size = (bytes: number) => `${(bytes / 1e6).toFixed(1)} MB`;

/** What a backup lacks, a line each. */
const lacks = (
  { missing, damaged }: { readonly missing: readonly string[]; readonly damaged: readonly string[] },
  names: Readonly<Record<string, string>> = {}
): string =>
  [...missing.map((entry) => ['missing', entry]), ...damaged.map((entry) => ['damaged', entry])]
    .map(([what, entry]) => `${what}: ${entry}${names[entry] ? ` (${names[entry]})` : ''}\n`)
    .join('');

export async function backup(file: string): Promise<{ result: object; text: string }> {
  const result = { file, ...(await inWords(writeBackup(file))) };
  return { result, text: `${file}: everything in ${result.directory}, ${size(result.bytes)}\n${lacks(result, result.names)}` };
}

export async function restore(file: string): Promise<{ result: object; text: string }> {
  const result = must(await inWords(readBackup(file)));
  const { directory, made, sessions, recordings, prints, binned, names } = result;
  const aside = binned ? `; ${binned} that were there lie in the bin` : '';
  return {
    result,
    text: `${directory}: as it was on ${made}: ${sessions} sessions, ${recordings} recordings, ${prints} prints${aside}\n${lacks(result, names)}`
  };
}
