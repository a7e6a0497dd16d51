// The server's routes without a server: requests go through the hook that every request passes, to the route that fits, on a real
// database and store in a folder of their own.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { RequestEvent, RequestHandler } from '@sveltejs/kit';
import type { App } from '../../src/lib/server/app';
import { makeDoor } from '../../src/lib/server/door';
import { createLibrary } from '../../src/lib/server/library';
import { openMediaStore } from '../../src/lib/server/media';
import { openPrints } from '../../src/lib/server/prints';
import { createBackups } from '../../src/lib/server/backup/backups';
import { createShelf } from '../../src/lib/server/shelf';
import { createStorage } from '../../src/lib/server/storage';
import { createSessions } from '../../src/lib/server/sessions';
import { handle, handleError } from '../../src/hooks.server';
import { migratedDatabase } from '../database';

type Module = { readonly [method: string]: RequestHandler };
const modules = import.meta.glob<Module>('../../src/routes/api/**/+server.ts', { eager: true });

export type Route = {
  readonly id: string;
  readonly methods: readonly string[];
  readonly pattern: RegExp;
  readonly names: readonly string[];
};
export const routes: readonly Route[] = Object.entries(modules).map(([file, module]) => {
  const id = file.replace('../../src/routes', '').replace('/+server.ts', '');
  return {
    id,
    methods: Object.keys(module).filter((name) => /^[A-Z]+$/.test(name)),
    names: [...id.matchAll(/\[(\w+)\]/g)].map(([, name]) => name),
    pattern: new RegExp(`^${id.replace(/\[\w+\]/g, '([^/]+)')}$`)
  };
});
const handlerOf = (route: Route, method: string): RequestHandler | undefined => modules[`../../src/routes${route.id}/+server.ts`][method];

export type Asked = { readonly method?: string; readonly body?: BodyInit | null; readonly headers?: Record<string, string> };

export async function openInProcess(): Promise<{
  readonly app: App;
  readonly directory: string;
  readonly ask: (address: string, asked?: Asked) => Promise<Response>;
  /** What went wrong here and was told as a 500. */
  readonly faults: readonly unknown[];
  readonly close: () => Promise<void>;
}> {
  const directory = mkdtempSync(path.join(tmpdir(), 'isotaxis-routes-'));
  const before = process.env.ISOTAXIS_DATA;
  process.env.ISOTAXIS_DATA = directory;
  const database = await migratedDatabase(path.join(directory, 'database'));
  const media = await openMediaStore(directory);
  const sessions = createSessions(database, { recording: async (sha256) => (await media.stored(sha256))?.info ?? null });
  const prints = await openPrints(directory, database, media);
  const door = await makeDoor('127.0.0.1', '', [], { verify: () => Promise.resolve(false) });
  const shelf = createShelf(database, sessions, media, prints);
  const storage = createStorage(directory, database, sessions, media, prints);
  const app: App = {
    ...{ database, sessions, media, prints, door, library: createLibrary(database), shelf, storage },
    backups: createBackups({ directory, database, media, sessions }, prints, storage),
    close: () => Promise.resolve()
  };
  const holder = globalThis as { isotaxis?: Promise<App> };
  holder.isotaxis = Promise.resolve(app);
  const faults: unknown[] = [];

  const ask = async (address: string, { method = 'GET', body = null, headers = {} }: Asked = {}): Promise<Response> => {
    const url = new URL(`http://127.0.0.1:4747${address}`);
    const route = routes.find(({ pattern }) => pattern.test(url.pathname)) ?? null;
    const values = route?.pattern.exec(url.pathname)?.slice(1).map(decodeURIComponent) ?? [];
    const request = new Request(url, { method, body, headers: { host: '127.0.0.1:4747', ...headers }, duplex: 'half' } as RequestInit);
    const event = {
      request,
      url,
      params: Object.fromEntries((route?.names ?? []).map((name, i) => [name, values[i]])),
      route: { id: route?.id ?? null },
      locals: {},
      cookies: { get: () => undefined, set: () => undefined, delete: () => undefined },
      platform: undefined
    } as unknown as RequestEvent;
    return handle({
      event,
      resolve: async (asked) => {
        const handler = route && handlerOf(route, method);
        if (!handler) return new Response(null, { status: route ? 405 : 404 });
        try {
          return await handler(asked as Parameters<RequestHandler>[0]);
        } catch (error) {
          const told = await handleError({ error, event: asked, status: 500, message: 'Internal Error' });
          if (asked.locals.refusal?.code === 'server') faults.push(error);
          return new Response(JSON.stringify(told), { status: 500 });
        }
      }
    });
  };
  return {
    app,
    directory,
    ask,
    faults,
    close: async () => {
      delete holder.isotaxis;
      if (before === undefined) delete process.env.ISOTAXIS_DATA;
      else process.env.ISOTAXIS_DATA = before;
      await prints.close();
      await media.close();
      await database.close();
      rmSync(directory, { recursive: true });
    }
  };
}
