// A hash over files, to tell whether something must be done again.
import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, statSync } from 'node:fs';
import path from 'node:path';

const filesUnder = (place) =>
  statSync(place).isDirectory()
    ? readdirSync(place)
        .sort()
        .flatMap((name) => filesUnder(path.join(place, name)))
    : [place];

/** SHA-256 over names and contents of files and of all files under directories. */
export function hashOf(places) {
  const hash = createHash('sha256');
  for (const file of places.flatMap(filesUnder)) hash.update(file).update('\0').update(readFileSync(file)).update('\0');
  return hash.digest('hex');
}
