// Opens a backup: everything in it is written into a folder and checked against what it says of itself, before anything is made of it.
import { createHash } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import path from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import * as yup from 'yup';
import { ok, refuse, type Result } from '$core/result';
import { entriesOf, openZip, streamOf, textOf } from '$files/zip';
import { Refused } from '../failures';
import { BACKUP_FORMAT, BACKUP_VERSION, type Manifest } from './write';

const NAMES = /^(tables\/[a-z_]{1,60}\.jsonl|media\/[0-9a-f]{64}\.wav|prints\/[\w-]{1,80}\/[^/\\]{1,255}|backup\.json)$/;
const MOST_MANIFEST = 64 * 2 ** 20;

const schema = yup.object({
  format: yup.string().oneOf([BACKUP_FORMAT]).required(),
  version: yup.number().integer().required(),
  made: yup.string().required(),
  migrations: yup.array().of(yup.string().required()).required(),
  tables: yup.object().required(),
  files: yup.object().required(),
  missing: yup.array().of(yup.string().required()).required()
});

export type OpenedBackup = { readonly manifest: Manifest; readonly folder: string };

const cutShort = (why: string) =>
  refuse(
    'damaged',
    `The backup cannot be read: ${why.replace(/\.$/, '')}. It was cut short or changed; nothing of it was taken. Copy it again.`
  );
const other = (why: string) => refuse('not-a-backup', `This is not a backup of Isotaxis: ${why}. Nothing of it was taken.`);

/** Unpacks `file` into `folder`: `tables/`, `media/` and `prints/`. `known` are the migrations that this Isotaxis has. */
export async function openBackup(file: string, folder: string, known: readonly string[]): Promise<Result<OpenedBackup>> {
  try {
    const zip = await openZip(file);
    try {
      const entries = await entriesOf(zip);
      const strange = entries.find(({ fileName }) => !NAMES.test(fileName) || fileName.split('/').includes('..'));
      if (strange) return other(`it holds “${strange.fileName}”`);
      const last = entries.find(({ fileName }) => fileName === 'backup.json');
      if (!last) return other('it holds no backup.json');
      if (last.uncompressedSize > MOST_MANIFEST) return other('its backup.json is too large');
      const read = manifestIn(await textOf(await streamOf(zip, last)));
      if (!read.ok) return read;
      const manifest = read.value;
      const unknown = manifest.migrations.find((name) => !known.includes(name));
      if (manifest.version > BACKUP_VERSION || unknown)
        return refuse('newer', 'This backup was made by a newer Isotaxis. Install that one, or a later one, and restore it there.');
      const names = new Set(entries.map(({ fileName }) => fileName));
      const lacking = Object.keys(manifest.files).find((name) => !names.has(name));
      if (lacking) return cutShort(`${lacking} is not in it`);
      for (const entry of entries) {
        if (entry === last) continue;
        const said = manifest.files[entry.fileName];
        if (!said) return other(`it holds “${entry.fileName}”, of which it says nothing`);
        const target = path.join(folder, entry.fileName);
        await mkdir(path.dirname(target), { recursive: true });
        const hash = createHash('sha256');
        const hashing = new Transform({
          transform: (chunk: Buffer, _encoding, done) => {
            hash.update(chunk);
            done(null, chunk);
          }
        });
        await pipeline(await streamOf(zip, entry), hashing, createWriteStream(target, { flags: 'wx' }));
        if (hash.digest('hex') !== said.sha256) return cutShort(`${entry.fileName} is not what it was`);
      }
      return ok({ manifest, folder });
    } finally {
      zip.close();
    }
  } catch (error) {
    if (error instanceof Refused) return { ok: false, error: error.refusal };
    // What the readers of ZIP files say of a damaged one is theirs; a full disk is not the backup's fault.
    if (error instanceof Error && !(error as NodeJS.ErrnoException).syscall) return cutShort(error.message);
    throw error;
  }
}

function manifestIn(text: string): Result<Manifest> {
  try {
    return ok(schema.validateSync(JSON.parse(text)) as unknown as Manifest);
  } catch (error) {
    if (error instanceof SyntaxError || error instanceof yup.ValidationError) return other(`its backup.json says: ${error.message}`);
    throw error;
  }
}
