// Every route of the API in this process: what each is for, and that nothing that is asked of any of them is a fault of the server's.
import { createHash } from 'node:crypto';
import { readdirSync } from 'node:fs';
import path from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { CODES, type Code } from '$core/codes';
import { encode } from '$core/formats/pcm';
import { wavHeader } from '$core/formats/wav';
import type { SessionDocument } from '$core/session/tables';
import { DatabaseAway } from '$lib/server/failures';
import { openInProcess, routes, type Asked } from '../../../tests/oracle/inProcess';
import type { Command } from '$core/commands/index';
import { anyCommand, bent, oddValue } from '../../../tests/oracle/anyCommand';
import { noise } from '../../../tests/oracle/rig';

let server: Awaited<ReturnType<typeof openInProcess>>;
beforeAll(async () => {
  server = await openInProcess();
});
afterAll(() => server.close());

const json = (method: string, body: unknown): Asked => ({
  method,
  body: JSON.stringify(body),
  headers: { 'content-type': 'application/json' }
});
/** The answer's body, where the status is as it should be. */
async function told<T = Record<string, unknown>>(status: number, address: string, asked?: Asked): Promise<T> {
  const response = await server.ask(address, asked);
  const text = await response.text();
  expect(response.status, `${asked?.method ?? 'GET'} ${address}: ${text.slice(0, 300)}`).toBe(status);
  return (text.startsWith('{') || text.startsWith('[') ? JSON.parse(text) : text) as T;
}
const wav = (seconds: number, channels: 1 | 2) => {
  const sides = Array.from({ length: channels }, (_, i) => noise(48000 * seconds, i + 1));
  return new Blob([wavHeader({ rate: 48000, channels, encoding: 'f32', frames: 48000 * seconds }), encode(sides, 'f32').bytes]);
};
let serial = 0;
const batch = (commands: unknown, more: object = {}) => json('POST', { base: 0, id: `r${++serial}`, commands, ...more });

/** A session with a track of a second, made by requests alone; `again` is a name of its own. */
async function withTrack(name: string): Promise<{ id: string; media: Record<string, unknown> }> {
  const { id } = await told<{ id: string }>(201, '/api/sessions', json('POST', { name }));
  const media = await told(201, `/api/sessions/${id}/media?name=Lead%20voice.wav`, { method: 'PUT', body: wav(1, 1) });
  await told(200, `/api/sessions/${id}/commands`, batch([{ do: 'tracks.add', tracks: [{ id: 'a', name: 'Lead voice', media }] }]));
  return { id, media };
}

describe('the job, route by route', () => {
  it('makes a session, takes audio in, carries out, undoes by name, and says what was missed', async () => {
    const { id } = await withTrack('Job');
    const route = `/api/sessions/${id}/commands`;
    const done = await told<{ revision: number; history: { undo: { id: string; label: string } } }>(
      200,
      route,
      batch([{ do: 'faders.set', levels: [{ id: 'a', level: '-inf' }] }])
    );
    expect(done).toMatchObject({ revision: 2, history: { undo: { label: 'Fader of Lead voice to −∞ dB' } } });
    const undo = json('POST', { base: 0, id: 'undo', undo: done.history.undo.id });
    const undone = await told<{ missed: unknown[]; changes: object[] }>(200, route, undo);
    expect(undone).toMatchObject({
      revision: 3,
      changes: [{ table: 'channel', key: 'a', before: { faderDb: '-inf' }, after: { faderDb: 0 } }]
    });
    expect(undone.missed).toHaveLength(2);
    // The same batch again does nothing twice.
    expect(await told(200, route, undo)).toMatchObject({ revision: 3, changes: [] });
    const { document } = await told<{ document: SessionDocument }>(200, `/api/sessions/${id}`);
    expect(document.channel.find((row) => row.id === 'a')).toMatchObject({ name: 'Lead voice', faderDb: 0 });
    expect(await told<{ sessions: object[] }>(200, '/api/sessions')).toMatchObject({
      sessions: expect.arrayContaining([expect.objectContaining({ id, name: 'Job', channels: 1, seconds: 1 })])
    });
  });

  it('sorts, leaves as a sheet and comes back, traces, and is drawn', async () => {
    const { id } = await withTrack('Sorted');
    const preview = await told<{ commands?: unknown[] }>(200, `/api/sessions/${id}/sort`, json('POST', { preview: true }));
    expect(JSON.stringify(preview)).toContain('Lead');
    await told(200, `/api/sessions/${id}/sort`, json('POST', {}));
    const sheet = await told<string>(200, `/api/sessions/${id}/sheet`);
    const edited = sheet.replace(/^(a,)[^,]*/m, '$1Singer');
    expect(await told(200, `/api/sessions/${id}/sheet?preview`, { method: 'POST', body: edited })).toMatchObject({
      changes: [{ id: 'a', to: 'Singer' }]
    });
    await told(200, `/api/sessions/${id}/sheet`, { method: 'POST', body: edited });
    const traced = await told<{ paths: { stations: { name: string }[] }[] }>(200, `/api/sessions/${id}/trace?from=a`);
    expect(traced.paths[0].stations[0].name).toBe('Singer');
    expect(await told(200, `/api/sessions/${id}/trace?from=a&at=48000`)).toMatchObject({ at: 48000 });
    expect(await told(422, `/api/sessions/${id}/trace?from=a&at=soon`)).toMatchObject({ error: { message: /whole number of frames/ } });
    for (const [format, begins] of [
      ['svg', '<svg'],
      ['graphml', '<?xml'],
      ['dot', 'digraph']
    ])
      expect(await told<string>(200, `/api/sessions/${id}/flow?format=${format}`)).toContain(begins);
    const { at } = await told<{ at: number[] }>(200, `/api/sessions/${id}/onsets?track=a`);
    expect(Array.isArray(at)).toBe(true);
  });

  it('gives samples and peaks of a recording, and the whole session as a package that opens again', async () => {
    const { id, media } = await withTrack('Packed');
    const peaks = await server.ask(`/api/peaks/${media.sha256 as string}`);
    expect([peaks.status, (await peaks.arrayBuffer()).byteLength > 100]).toEqual([200, true]);
    const few = await server.ask(`/api/pcm?media=${media.sha256 as string}&from=0&frames=64`);
    const many = await server.ask('/api/pcm', json('POST', { media: [media.sha256], from: 0, frames: 64 }));
    expect(Buffer.from(await few.arrayBuffer())).toEqual(Buffer.from(await many.arrayBuffer()));
    const packed = await (await server.ask(`/api/sessions/${id}/package`)).arrayBuffer();
    const opened = await told<{ id: string; name: string }>(201, '/api/packages', { method: 'POST', body: packed });
    const rows = async (session: string) =>
      (await told<{ document: SessionDocument }>(200, `/api/sessions/${session}`)).document.channel.toSorted((a, b) =>
        String(a.id) < String(b.id) ? -1 : 1
      );
    expect(await rows(opened.id)).toEqual(await rows(id));
  });

  it('tells a track’s levels, and how loud a range is, as a print of it by its name says', async () => {
    const { id } = await withTrack('Ranged');
    const act = (...commands: object[]) => told(200, `/api/sessions/${id}/commands`, batch(commands));
    await act(
      { do: 'clips.cut', ids: ['a:1'], at: 24_000, as: 'x' },
      { do: 'clips.gain', ids: ['x:1'], db: -6 },
      { do: 'clips.mute', ids: ['a:1'], on: true }
    );
    const { levels } = await told<{ levels: (number | null)[] }>(200, `/api/sessions/${id}/levels?track=a`);
    // White noise of ±0.25, 6 dB softer; nothing where the clip is muted.
    expect([levels.length, levels[0], levels.at(-1)]).toEqual([20, null, expect.closeTo(20 * Math.log10(0.25 / Math.sqrt(3)) - 6, 0)]);
    await act({ do: 'clips.mute', ids: ['a:1'], on: false }, { do: 'ranges.set', id: 'r', name: 'Verse', from: 4800, to: 43_200 });
    // Beside the middle: a mix of two like sides is printed, and measured, as one channel.
    await act({ do: 'pans.set', pans: [{ id: 'a', pan: -20 }] });
    const route = `/api/sessions/${id}/measure`;
    const measured = await told<{ lufs: number; truePeakDb: number }>(200, route, json('POST', { range: 'verse' }));
    expect(await told(200, route, json('POST', { range: { from: 4800, to: 43_200 } }))).toEqual(measured);
    const asked = { ranges: [{ name: 'Verse' }], tail: 'none', format: 'wav32f' };
    await told(201, `/api/sessions/${id}/prints`, json('POST', asked));
    type Job = { status: string; files: { lufs: number; truePeakDb: number; frames: number }[] };
    const list = async () => (await told<{ prints: Job[] }>(200, `/api/sessions/${id}/prints`)).prints;
    for (let i = 0; i < 200 && (await list())[0].status === 'running'; i++) await new Promise((resolve) => setTimeout(resolve, 50));
    const [{ files }] = await list();
    expect(files).toMatchObject([
      { frames: 38_400, lufs: expect.closeTo(measured.lufs, 6), truePeakDb: expect.closeTo(measured.truePeakDb, 6) }
    ]);
    await told(422, route, json('POST', { range: { from: 5 } }));
    await told(404, route, json('POST', { range: 'Chorus' }));
    await told(404, `/api/sessions/${id}/prints`, json('POST', { ranges: [{ name: 'Chorus' }] }));
    await told(404, `/api/sessions/${id}/levels?track=gone`);
  });

  it('prints, lists, hears a part of it and forgets it', async () => {
    const { id } = await withTrack('Printed');
    const print = await told<{ id: string }>(201, `/api/sessions/${id}/prints`, json('POST', { format: 'wav24' }));
    const list = () => told<{ prints: { id: string; status: string; files: { id: string }[] }[] }>(200, `/api/sessions/${id}/prints`);
    for (let i = 0; i < 200 && (await list()).prints[0].status === 'running'; i++) await new Promise((resolve) => setTimeout(resolve, 50));
    const [done] = (await list()).prints;
    expect(done).toMatchObject({ id: print.id, status: 'done', files: [{ kind: 'mix', name: 'Printed - mix.wav' }] });
    expect(await told(200, `/api/prints/${print.id}`)).toEqual(done);
    const file = `/api/prints/${print.id}/${done.files[0].id}`;
    const part = await server.ask(file, { headers: { range: 'bytes=0-3' } });
    expect([part.status, await part.text()]).toEqual([206, 'RIFF']);
    await told(416, file, { headers: { range: 'bytes=999999999-' } });
    await told(404, `/api/prints/${print.id}/residual/0`);
    await told(422, `/api/sessions/${id}/prints`, json('POST', { files: [{ kind: 'stem' }] }));
    await told(422, `/api/sessions/${id}/prints`, json('POST', { ranges: [{ from: 5, to: 5 }] }));
    await told(422, `/api/sessions/${id}/prints`, json('POST', { encoding: 's24' }));
    await told(204, `/api/prints/${print.id}`, { method: 'DELETE' });
    await told(404, `/api/prints/${print.id}`);
    await told(404, file);
  });

  it('keeps templates and rules, and lets a player move his cue and nothing else', async () => {
    const { id } = await withTrack('Played');
    await told(201, '/api/templates', json('POST', { session: id, name: 'Mine' }));
    expect(JSON.stringify(await told(200, '/api/templates'))).toContain('Mine');
    const template = await told<object>(200, '/api/templates/Mine');
    await told(201, '/api/templates', json('POST', { template: { ...template, name: 'Yours' } }));
    await told(201, '/api/sessions', json('POST', { name: 'From mine', template: 'Mine', rate: 96000 }));
    await told(204, '/api/templates/Mine', { method: 'DELETE' });
    const { book } = await told<{ book: object }>(200, '/api/rules');
    expect(await told(200, '/api/rules', json('PUT', book))).toMatchObject({ own: true });
    expect(await told(200, '/api/rules', { method: 'DELETE' })).toMatchObject({ own: false });
    const token = 'a-token-of-twenty-letters';
    await told(
      200,
      `/api/sessions/${id}/commands`,
      batch([
        { do: 'cues.add', id: 'q', name: 'Cue', sources: ['a'] },
        { do: 'cues.share', id: 'q', token }
      ])
    );
    await told(200, `/api/cue/${token}`, json('POST', { sends: [{ source: 'a', level: -6 }] }));
    await told(404, '/api/cue/another-token-of-no-use');
    const { document } = await told<{ document: SessionDocument }>(200, `/api/sessions/${id}`);
    expect(document.send).toMatchObject([{ sourceId: 'a', targetId: 'q', levelDb: -6 }]);
  });

  it('streams what happens, from where one was', async () => {
    const { id } = await withTrack('Heard');
    const stream = (await server.ask(`/api/sessions/${id}/events?since=0`)).body!.getReader();
    const text = new TextDecoder();
    let heard = '';
    const until = async (what: string) => {
      while (!heard.includes(what)) heard += text.decode((await stream.read()).value);
    };
    await until('id: 1');
    await told(200, `/api/sessions/${id}/commands`, batch([{ do: 'mutes.set', ids: ['a'], on: true }]));
    await until('id: 2');
    expect(heard).toContain('"mute":true');
    await stream.cancel();
    await told(422, `/api/sessions/${id}/events?since=no`);
  });
});

describe('while a batch is being written', () => {
  it('nothing that is asked for shows it: should it fail, it never was', async () => {
    const { id } = await withTrack('Written');
    const at = `/api/sessions/${id}`;
    const token = 'a-token-of-a-player-there';
    await told(
      200,
      `${at}/commands`,
      batch([
        { do: 'cues.add', id: 'q', name: 'Cue', sources: ['a'] },
        { do: 'cues.share', id: 'q', token }
      ])
    );
    const sheet = await told<string>(200, `${at}/sheet`);
    let serial = 0;
    /** What every way of reading says of the session; ids made anew are read again. */
    const look = () => {
      const name = `Look ${++serial}`;
      const made = async (address: string, body: object, read: (answer: { id: string }) => string) =>
        read(await told(201, address, json('POST', body)));
      const later = async (address: Promise<string>) => told<object>(200, await address);
      return Promise.all([
        ...['', '/trace?from=a', '/flow?format=dot', '/sheet', '/levels?track=a', '/onsets?track=a'].map((each) => told(200, at + each)),
        told(200, `${at}/sheet?preview`, { method: 'POST', body: sheet }),
        told(200, `${at}/sort`, json('POST', { preview: true })),
        told(200, `${at}/measure`, json('POST', {})),
        server.ask(`${at}/package`).then(async (packed) =>
          createHash('sha256')
            .update(Buffer.from(await packed.arrayBuffer()))
            .digest('hex')
        ),
        server.ask(`${at}/events?since=2`).then(async ({ body }) => {
          const stream = body!.getReader();
          const first = new TextDecoder().decode((await stream.read()).value);
          await stream.cancel();
          return first;
        }),
        told(200, `/api/cue/${token}`),
        later(made('/api/templates', { session: id, name }, () => `/api/templates/${encodeURIComponent(name)}`)).then((template) => ({
          ...template,
          name
        })),
        later(made(`${at}/duplicate`, { name }, (copy) => `/api/sessions/${copy.id}`)),
        later(made(`${at}/prints`, {}, (print) => `/api/prints/${print.id}`)).then((print) => (print as { name: string }).name)
      ]).then(
        (seen) =>
          JSON.parse(
            JSON.stringify(seen)
              .replaceAll(name, 'Look')
              .replaceAll(/[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}/g, 'new')
          ) as unknown[]
      );
    };
    const { database } = server.app;
    const { transaction } = database;
    /** Sends a batch whose transaction waits at its end, and then comes to nothing. */
    const lose = async () => {
      let reached = () => {};
      const underWay = new Promise<void>((resolve) => (reached = resolve));
      let fail = () => {};
      const failing = new Promise<never>((_, reject) => (fail = () => reject(new DatabaseAway('The database is away.'))));
      Object.assign(database, {
        transaction: (work: Parameters<typeof transaction>[0]) => {
          Object.assign(database, { transaction });
          return transaction(async (query) => {
            await work(query);
            reached();
            return failing;
          });
        }
      });
      const lost = told(
        503,
        `${at}/commands`,
        batch([
          { do: 'settings.set', name: 'LOST' },
          { do: 'channels.rename', names: ['a', 'q'].map((channel) => ({ id: channel, name: `LOST ${channel}` })) },
          { do: 'faders.set', levels: [{ id: 'a', level: -30 }] },
          { do: 'clips.gain', ids: ['a:1'], db: -30 }
        ])
      );
      await Promise.race([underWay, lost]);
      return async () => {
        fail();
        await lost;
      };
    };
    // After a failure a session is read again, in the order of the disk.
    await (
      await lose()
    )();
    const before = await look();
    const end = await lose();
    const during = look();
    await new Promise((resolve) => setTimeout(resolve, 100));
    await end();
    expect(await during).toEqual(before);
    for (const { id: print } of (await told<{ prints: { id: string }[] }>(200, `${at}/prints`)).prints)
      await told(204, `/api/prints/${print}`, { method: 'DELETE' });
  });
});

describe('while a session goes for good', () => {
  it('a print of it that is ordered leaves nothing', async () => {
    const kept = readdirSync(path.join(server.directory, 'prints'));
    let ordered = 0;
    for (let round = 0; round < 12; round++) {
      const { id } = await withTrack(`Going ${round}`);
      const order = async (late: number) => {
        await new Promise((resolve) => setTimeout(resolve, late));
        const { status } = await server.ask(`/api/sessions/${id}/prints`, json('POST', {}));
        expect([201, 404]).toContain(status);
        if (status === 201) ordered++;
      };
      const go = async (late: number) => {
        await new Promise((resolve) => setTimeout(resolve, late));
        await told(204, `/api/sessions/${id}?final=1`, { method: 'DELETE' });
      };
      await Promise.all([order(0), order(round), go(round % 6), order(2 * round)]);
      expect(await server.app.prints.list(id)).toEqual([]);
    }
    expect(ordered).toBeGreaterThan(5);
    expect(server.app.prints.isIdle()).toBe(true);
    await told(200, '/api/storage/unused', { method: 'DELETE' });
    expect(readdirSync(path.join(server.directory, 'prints'))).toEqual(kept);
  });
});

describe('whatever is asked', () => {
  const isRefusal = async (response: Response) => {
    const { error } = (await response.json()) as { error: { code: Code; message: string } };
    expect(error.message).toMatch(/\S+ .*\S/s);
    expect(CODES[error.code], error.code).toBe(response.status);
  };

  it('what is not there is told so, by every route and method', async () => {
    let asked = 0;
    for (const { id, names, methods } of routes)
      for (const method of methods) {
        if (names.length === 0) continue;
        const address = id
          .replace(/\[sha\]/, 'f'.repeat(64))
          .replace(/\[token\]/, 'a-token-that-opens-nothing')
          .replace(/\[\w+\]/g, 'gone');
        const response = await server.ask(address, method === 'GET' || method === 'DELETE' ? { method } : json(method, { commands: [{}] }));
        // Forgetting what is not there may be done already.
        if (response.status < 400) expect([method, response.status]).toEqual(['DELETE', 204]);
        else await isRefusal(response);
        asked++;
      }
    expect(asked).toBeGreaterThan(20);
    for (const address of ['/api/nothing', '/api/sessions/../secret', '/api/sessions/..%2F..%2Fname']) {
      const response = await server.ask(address);
      expect(response.status).toBe(404);
      await isRefusal(response);
    }
    const response = await server.ask('/api/sessions', { method: 'PATCH' });
    expect(response.status).toBe(405);
    await isRefusal(response);
  });

  it('odd bodies and queries, of every route, are refused in words or understood; never a fault', async () => {
    const { id } = await withTrack('Odd');
    const token = 'a-token-of-an-odd-player';
    const shared = [
      { do: 'cues.add', id: 'q', name: 'Cue', sources: ['a'] },
      { do: 'cues.share', id: 'q', token }
    ];
    await told(200, `/api/sessions/${id}/commands`, batch(shared));
    const writing = routes.flatMap(({ id: route, methods }) =>
      // Its body is read as audio or as a package, whatever it is: tried below.
      route.endsWith('/events') ? [] : methods.filter((method) => method !== 'DELETE').map((method) => ({ route, method }))
    );
    const span = { from: 0, to: 4800 };
    const sound: readonly (readonly [address: string, body: object])[] = [
      [`/api/sessions/${id}/commands`, { base: 0, id: 'batch', commands: [{ do: 'batch.name', text: 'x' }], gesture: 'g' }],
      [`/api/sessions/${id}/commands`, { base: 0, id: 'batch', undo: 'entry' }],
      ['/api/sessions', { name: 'Made', rate: 48000, bpm: 100, template: 'gone' }],
      [`/api/sessions/${id}/duplicate`, { name: 'Copy' }],
      ['/api/templates', { session: id, name: 'Kept', rules: true, lanes: true }],
      [
        `/api/sessions/${id}/prints`,
        { files: [{ kind: 'mix' }], format: 'wav24', rate: 48000, ranges: [span], tail: 'none', names: '{title}', take: null }
      ],
      [`/api/sessions/${id}/prints`, { ranges: [{ name: 'gone' }] }],
      [`/api/sessions/${id}/measure`, { range: span }],
      ['/api/pcm', { media: ['0'.repeat(64)], from: 0, frames: 10 }],
      [
        `/api/sessions/${id}/sort`,
        { options: { least: 2, naming: 'upper', chain: 'x' }, corrections: { a: { rule: 'r', name: 'n' } }, ids: ['a'], preview: true }
      ],
      ['/api/rules', { name: 'gone' }],
      [`/api/cue/${token}`, { level: -6, sends: [{ source: 'a', level: -3, on: true }] }]
    ];
    const field = fc.constantFrom(
      ...['base', 'id', 'commands', 'undo', 'name', 'rate', 'bpm', 'template', 'session', 'preview', 'options', 'rules', 'corrections'],
      ...[
        'families',
        'encoding',
        'media',
        'from',
        'frames',
        'level',
        'sends',
        'ids',
        'gesture',
        'redo',
        'lanes',
        'names',
        'ranges',
        'range'
      ],
      ...['files', 'format', 'tail', 'preRoll', 'dither', 'take']
    );
    const body = fc.oneof(
      fc.dictionary(field, oddValue, { maxKeys: 5, noNullPrototype: true }).map((value) => JSON.stringify(value)),
      fc
        .tuple(anyCommand(), oddValue, fc.nat(60))
        .map(([command, odd, pick]) => JSON.stringify({ base: 0, id: `o${++serial}`, commands: [bent(command, odd, pick, null)] })),
      fc.string({ unit: 'binary', maxLength: 40 }),
      fc.constantFrom('', 'null', '[]', '"text"', '{', 'id,name\r\na,x\r\n', 'id\r\n')
    );
    const word = fc.oneof(
      fc.constantFrom('gone', '..', 'a\u0000b', '%00', 'x'.repeat(300), 'Ü', 'toString'),
      fc.string({ minLength: 1, maxLength: 6 })
    );
    const query = fc.dictionary(
      fc.constantFrom('from', 'to', 'pair', 'format', 'track', 'media', 'frames', 'name', 'preview'),
      fc.oneof(fc.string({ maxLength: 6 }), fc.constantFrom('a', 'mix', '-1', '1e9', 'NaN')),
      { maxKeys: 3, noNullPrototype: true }
    );
    let understood = 0;
    await fc.assert(
      fc.asyncProperty(fc.constantFrom(...writing), body, query, word, async ({ route, method }, text, asked, name) => {
        const address = route
          .replace('[id]', route.startsWith('/api/prints') ? 'gone' : id)
          .replace('[sha]', '0'.repeat(64))
          .replace('[token]', 'no-such-token-at-all-here')
          .replace('[name]', encodeURIComponent(name));
        const search = new URLSearchParams(asked).toString();
        const response = await server.ask(`${address}?${search}`, method === 'GET' ? {} : { method, body: text });
        expect(server.faults, `${method} ${address}?${search} ${text}`).toEqual([]);
        if (response.status < 400) {
          understood++;
          await response.arrayBuffer();
        } else await isRefusal(response);
      }),
      { numRuns: Number(process.env.RUNS ?? 300), seed: 77 }
    );
    expect(server.faults).toEqual([]);
    expect(understood).toBeGreaterThan(60);
    // What would be understood but for one value.
    await fc.assert(
      fc.asyncProperty(fc.constantFrom(...sound), oddValue, fc.nat(60), async ([address, whole], odd, pick) => {
        const asked = json('POST', bent(whole as Command, odd, pick, null));
        const response = await server.ask(address, asked);
        expect(server.faults, `${address} ${String(asked.body)}`).toEqual([]);
        if (response.status >= 400) await isRefusal(response);
      }),
      { numRuns: Number(process.env.RUNS ?? 300), seed: 78 }
    );
    // And what it holds can still be read and worked on.
    await told(200, `/api/sessions/${id}`);
    await told(
      200,
      `/api/sessions/${id}/commands`,
      batch([
        { do: 'batch.name', text: 'Still here' },
        { do: 'faders.set', levels: [{ id: 'mix', level: -1 }] }
      ])
    );
  });
});
