// Migrations forward: a database of the first version, as it was dumped, opens with everything in it and can be worked on.
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { expect, it } from 'vitest';
import { freshDatabase } from '../../../../tests/database';
import { checkSession } from '$core/session/check';
import { createSessions } from '../sessions';
import { migrate, statements } from './migrate';

it('brings a database of the first version forward, twice without harm', async () => {
  const directory = mkdtempSync(path.join(tmpdir(), 'isotaxis-migrate-'));
  const database = await freshDatabase(path.join(directory, 'database'));
  try {
    for (const statement of statements(readFileSync('tests/fixtures/database-001.sql', 'utf8'))) await database.query(statement);
    // A removal from before: undone, it brings back a row without the columns of today.
    const gone = {
      ...{ id: 'z', kind: 'track', name: 'Gone', colour: 3, position: 99, born: 40, width: 1, outputId: 'mix', outputPair: null },
      ...{ faderDb: '-inf', pan: 0, mute: false, solo: false, soloSafe: false }
    };
    await database.query("insert into history (session_id, id, label, changes) values ('old', 'h2', 'Remove Gone', $1::jsonb)", [
      JSON.stringify([{ table: 'channel', key: 'z', before: gone, after: null }])
    ]);
    // What the first version let in and today's description does not.
    await database.query("update channel set name = repeat('x', 130), fader_db = -150 where id = 'ret'");
    await database.query(
      `insert into clip (session_id, id, channel_id, media_id, start, "offset", length)
        select session_id, 'a:over', channel_id, media_id, start + 10, 0, 20 from clip where id = 'a:1'`
    );
    await migrate(database);
    await migrate(database);
    const sessions = createSessions(database);
    const state = (await sessions.read('old', (state) => state))!;
    expect(checkSession(state.session)).toMatchObject({ ok: true });
    expect(state.revision).toBe(3);
    expect(state.session.channel.get('a')).toMatchObject({ name: 'Bass pan', faderDb: -Infinity, trimDb: 0, polarity: false });
    expect(state.session.send.get('a\nret')).toMatchObject({ levelDb: -7.25, tap: 'pre', mono: false, pan: null });
    expect(state.session.insert.get('ret:reverb')).toMatchObject({ keyId: null, params: { decay: 2.25 } });
    // The later of two clips that lay over each other lies on top.
    const { start } = state.session.clip.get('a:1')!;
    expect(state.session.clip.get('a:1')).toMatchObject({ channel: 0, length: 10, gainDb: 0, fadeIn: 0, muted: false });
    expect(state.session.clip.get('a:over')).toMatchObject({ start: start + 10, length: 20 });
    expect(state.session.settings.get('settings')).toMatchObject({ bpm: 104, zero: 0, soloDimDb: null, lastSolo: [], edgeMs: 2 });
    // Brought into range, and nothing else of it is touched: what is null stays so.
    expect(state.session.channel.get('ret')).toMatchObject({
      name: 'x'.repeat(120),
      faderDb: -Infinity,
      panRight: null,
      outputPair: null,
      pan: 0
    });
    expect(await sessions.carryOut('old', { base: 3, id: 'u2', undo: 'h2' })).toMatchObject({ ok: true });
    expect(state.session.channel.get('z')).toMatchObject({ name: 'Gone', faderDb: -Infinity, role: '', resting: false, polarity: false });
    expect(await sessions.carryOut('old', { base: 4, id: 'u', undo: 'h1' })).toMatchObject({ ok: true });
    expect(state.session.channel.get('bus')!.faderDb).toBe(0);
    const add = { base: 5, id: 'n', commands: [{ do: 'inserts.add' as const, id: 'c', channelId: 'bus', type: 'comp' as const }] };
    expect(await sessions.carryOut('old', add)).toMatchObject({ ok: true, value: { revision: 6 } });
    expect((await createSessions(database).read('old', (state) => state))!.session.insert.get('c')!.type).toBe('comp');
  } finally {
    await database.close();
    rmSync(directory, { recursive: true });
  }
});
