// Session packages: exact round trips, and what tries to get in by them.
import { createWriteStream, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { pipeline } from 'node:stream/promises';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import yazl from 'yazl';
import { encode } from '$core/formats/pcm';
import { readDocument, writeDocument } from '$core/formats/document';
import { sessionSchema } from '$core/formats/schema';
import { wavHeader } from '$core/formats/wav';
import type { Session } from '$core/session/entities';
import { encodeSession } from '$core/session/tables';
import { carryOut, emptyDesk, noise, trackCommand } from '../tests/oracle/rig';
import { openPackage, writePackage } from './package';

let folder = '';
beforeAll(() => (folder = mkdtempSync(path.join(tmpdir(), 'isotaxis-package-'))));
afterAll(() => rmSync(folder, { recursive: true }));
let last = 0;
const fresh = () => path.join(folder, String(++last));

/** A session with one real recording and a bit of everything. */
function made(): { session: Session; audio: string } {
  const bytes = Buffer.concat([
    wavHeader({ rate: 48000, channels: 1, encoding: 's24', frames: 1000 }),
    encode([noise(1000, 1)], 's24').bytes
  ]);
  const sha256 = createHash('sha256').update(bytes).digest('hex');
  const audio = path.join(folder, `${sha256}.wav`);
  writeFileSync(audio, bytes);
  const session = carryOut(emptyDesk(), trackCommand([{ id: 'a', frames: 1000 }]));
  session.media.set('m-a', { ...session.media.get('m-a')!, sha256, encoding: 's24', peakDb: -12.25 });
  carryOut(
    session,
    { do: 'buses.add', id: 'b', name: 'BUS “ü”', members: ['a'] },
    { do: 'returns.add', id: 'r', name: 'Room', sources: ['a', 'b'] },
    { do: 'sends.set', sends: [{ source: 'a', target: 'r', level: -7.25, tap: 'input', mono: true, pan: 12.5 }] },
    { do: 'inserts.add', id: 'c', channelId: 'b', type: 'comp' },
    { do: 'inserts.key', id: 'c', source: 'a', tap: 'pre' },
    { do: 'faders.set', levels: [{ id: 'a', level: -Infinity }] }
  );
  return { session, audio };
}

async function zipped(entries: Record<string, Buffer>): Promise<string> {
  const zip = new yazl.ZipFile();
  for (const [name, bytes] of Object.entries(entries)) zip.addBuffer(bytes, name);
  zip.end();
  const file = `${fresh()}.zip`;
  await pipeline(zip.outputStream, createWriteStream(file));
  return file;
}
const refusalOf = async (file: string): Promise<string> => {
  const target = fresh();
  const opened = await openPackage(file, target);
  if (opened.ok) return 'taken';
  expect(opened.error.message).toMatch(/\.$/);
  return opened.error.code;
};

describe('session package', () => {
  it('comes back exactly, is the same to the byte each time, and keeps −∞', async () => {
    const { session, audio } = made();
    const [one, two] = [`${fresh()}.zip`, `${fresh()}.zip`];
    await writePackage(session, () => audio, one);
    await writePackage(session, () => audio, two);
    expect(readFileSync(one).equals(readFileSync(two))).toBe(true);
    const opened = await openPackage(one, fresh());
    if (!opened.ok) throw new Error(opened.error.message);
    expect(encodeSession(opened.value.session)).toEqual(encodeSession(session));
    expect(opened.value.session.channel.get('a')!.faderDb).toBe(-Infinity);
    expect([...opened.value.files.values()].map((file) => readFileSync(file).equals(readFileSync(audio)))).toEqual([true]);
  });

  it('reads the first version of the document, and says so of a newer one', () => {
    const { session } = made();
    const current = JSON.parse(writeDocument(session)) as { version: number; session: Record<string, Record<string, unknown>[]> };
    const NEW = {
      settings: ['zero'],
      channel: ['trimDb', 'polarity'],
      send: ['mono', 'pan'],
      insert: ['keyId', 'keyTap'],
      clip: ['channel'],
      media: ['origin']
    };
    const old = structuredClone(current);
    old.version = 1;
    for (const [table, fields] of Object.entries(NEW)) for (const row of old.session[table]) for (const field of fields) delete row[field];
    const read = readDocument(JSON.stringify(old));
    expect(read.ok && read.value.channel.get('a')).toMatchObject({ trimDb: 0, polarity: false });
    const newer = readDocument(JSON.stringify({ ...current, version: 99 }));
    expect(!newer.ok && newer.error.code).toBe('newer');
  });

  it('brings clips apart that lie over each other, and says so', () => {
    const document = JSON.parse(writeDocument(made().session)) as { session: Record<string, Record<string, unknown>[]> };
    const [clip] = document.session.clip;
    document.session.clip.push({ ...clip, id: 'over', start: 400 });
    const mended: string[] = [];
    const read = readDocument(JSON.stringify(document), mended);
    expect(mended).toEqual([expect.stringMatching(/^Two clips of .* lay over each other: the later one was left on top\.$/)]);
    expect(
      read.ok && [...read.value.clip.values()].filter((each) => each.channelId === clip.channelId).map(({ length }) => length)
    ).toEqual([400, clip.length]);
    expect(readDocument(writeDocument(made().session), mended).ok).toBe(true);
    expect(mended).toHaveLength(1);
  });

  it('has its schema published as it is', () => {
    expect(JSON.parse(readFileSync('docs/session.schema.json', 'utf8'))).toEqual(sessionSchema);
  });

  it('refuses names that lead elsewhere, bombs, strangers, doubles and recordings that are not what they say', async () => {
    const { session, audio } = made();
    const document = Buffer.from(writeDocument(session));
    const name = `audio/${path.basename(audio)}`;
    const bytes = readFileSync(audio);
    expect(await refusalOf(await zipped({ 'session.json': document, [name]: bytes }))).toBe('taken');
    // yazl refuses to write such a name: it is put in afterwards, at the same length.
    const plain = readFileSync(await zipped({ 'session.json': document, 'xx/session.json.': Buffer.from('{}') }));
    const evil = `${fresh()}.zip`;
    writeFileSync(evil, Buffer.from(plain.toString('latin1').replaceAll('xx/session.json.', '../session.json.'), 'latin1'));
    expect(await refusalOf(evil)).not.toBe('taken');
    expect(readdirSync(folder)).not.toContain('session.json.');
    expect(await refusalOf(await zipped({ 'session.json': document, 'notes.txt': Buffer.from('x') }))).toBe('not-a-package');
    expect(await refusalOf(await zipped({ 'session.json': document, [name]: Buffer.alloc(70 * 2 ** 20) }))).toBe('too-large');
    expect(await refusalOf(await zipped({ 'session.json': document }))).toBe('missing');
    expect(await refusalOf(await zipped({ [name]: bytes }))).toBe('not-a-package');
    const changed = Buffer.from(bytes);
    changed[changed.length - 1] ^= 1;
    expect(await refusalOf(await zipped({ 'session.json': document, [name]: changed }))).toBe('damaged');
    expect(await refusalOf(audio)).toBe('damaged');
  });

  it.each<[string, (session: Record<string, Record<string, unknown>[]>) => unknown, string]>([
    [
      'a loop',
      (s) =>
        Object.assign(
          s.channel.find((row) => row.id === 'b')!,
          { outputId: 'b' }
        ),
      'loop'
    ],
    ['a fader of +13 dB', (s) => Object.assign(s.channel[1], { faderDb: 13 }), 'invalid'],
    ['a channel twice', (s) => s.channel.push(s.channel[1]), 'inconsistent'],
    ['a send from nowhere', (s) => Object.assign(s.send[0], { sourceId: 'gone' }), 'inconsistent'],
    ['a clip longer than its recording', (s) => Object.assign(s.clip[0], { length: 1001 }), 'inconsistent'],
    ['an insert of an unknown kind', (s) => Object.assign(s.insert[0], { type: 'vocoder' }), 'invalid'],
    ['a table too few', (s) => delete (s as Record<string, unknown>).send, 'invalid']
  ])('refuses %s', (_, spoil, code) => {
    const document = JSON.parse(writeDocument(made().session)) as { session: Record<string, Record<string, unknown>[]> };
    spoil(document.session);
    const read = readDocument(JSON.stringify(document));
    expect(!read.ok && read.error.code).toBe(code);
  });
});
