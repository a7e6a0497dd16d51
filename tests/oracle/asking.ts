// What tests of the server's routes ask again and again: sessions with recordings of their own, what is listed, what is on disk.
import { expect } from 'vitest';
import { encode } from '../../core/formats/pcm';
import { wavHeader } from '../../core/formats/wav';
import type { SessionDocument } from '../../core/session/tables';
import type { SessionBrief } from '../../src/lib/server/shelf';
import type { Cleared, StorageReport } from '../../src/lib/server/storage';
import { openInProcess, type Asked } from './inProcess';
import { noise } from './rig';

export const json = (method: string, body: unknown): Asked => ({ method, body: JSON.stringify(body) });

/** Half a second of noise, another for each seed. */
const wav = (seed: number) =>
  new Blob([wavHeader({ rate: 48000, channels: 1, encoding: 's24', frames: 24_000 }), encode([noise(24_000, seed)], 's24').bytes]);

export type Asking = Awaited<ReturnType<typeof openAsking>>;

export async function openAsking() {
  const server = await openInProcess();
  let serial = 0;
  /** The answer's body, where the status is as it should be. */
  async function told<T = Record<string, unknown>>(status: number, address: string, asked?: Asked): Promise<T> {
    const response = await server.ask(address, asked);
    const text = await response.text();
    expect(response.status, `${asked?.method ?? 'GET'} ${address}: ${text.slice(0, 300)}`).toBe(status);
    return (text ? JSON.parse(text) : null) as T;
  }
  const act = (id: string, ...commands: object[]) =>
    told(200, `/api/sessions/${id}/commands`, json('POST', { base: 0, id: `s${++serial}`, commands }));
  const upload = (id: string, seed: number) =>
    told<{ sha256: string }>(201, `/api/sessions/${id}/media?name=Surdo.wav`, { method: 'PUT', body: wav(seed) });
  const storage = () => told<StorageReport>(200, '/api/storage');
  return {
    ...server,
    told,
    act,
    upload,
    storage,
    /** A session with one track, of a recording of its own. */
    session: async (name: string, seed: number): Promise<{ id: string; sha256: string }> => {
      const { id } = await told<{ id: string }>(201, '/api/sessions', json('POST', { name }));
      const media = await upload(id, seed);
      await act(id, { do: 'tracks.add', tracks: [{ id: 't', name: 'Surdo', media }] });
      return { id, sha256: media.sha256 };
    },
    list: async (bin = false) => (await told<{ sessions: SessionBrief[] }>(200, `/api/sessions${bin ? '?bin=1' : ''}`)).sessions,
    document: async (id: string) => (await told<{ document: SessionDocument }>(200, `/api/sessions/${id}`)).document,
    unused: async () => (await storage()).unused.recordings.map(({ sha256 }) => sha256),
    clear: () => told<Cleared>(200, '/api/storage/unused', { method: 'DELETE' })
  };
}
