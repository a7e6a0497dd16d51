// The database's own thread: PGlite on the data directory, one request after another.
import * as fs from 'node:fs';
import { parentPort, workerData } from 'node:worker_threads';
import { PGlite } from '@electric-sql/pglite';
import { NodeFS } from '@electric-sql/pglite/nodefs';
import PQueue from 'p-queue';
import type { DatabaseAnswer, DatabaseRequest } from '../db/protocol.ts';

type NodeStream = { readonly nfd?: number };

/** Passes fsync through to the disk, which the package's own file system does not. */
class SyncedNodeFS extends NodeFS {
  override async init(...given: Parameters<NodeFS['init']>): ReturnType<NodeFS['init']> {
    const { emscriptenOpts } = await super.init(...given);
    const sync = (module: unknown) => {
      const { NODEFS } = module as { NODEFS: { stream_ops: Record<string, unknown> } };
      NODEFS.stream_ops.fsync = ({ nfd }: NodeStream) => {
        if (nfd !== undefined) fs.fdatasyncSync(nfd);
        return 0;
      };
    };
    return { emscriptenOpts: { ...emscriptenOpts, preRun: [...(emscriptenOpts.preRun ?? []), sync] } };
  }
}

const { directory, template } = workerData as { directory: string; template: Uint8Array<ArrayBuffer> };
const fresh = !fs.existsSync(`${directory}/PG_VERSION`);
const database = await PGlite.create({
  fs: new SyncedNodeFS(directory),
  // -F would switch fsync off.
  startParams: PGlite.defaultStartParams.filter((word) => word !== '-F'),
  ...(fresh ? { loadDataDir: new Blob([template]) } : {})
});

const answer = (message: DatabaseAnswer) => parentPort!.postMessage(message);
const queue = new PQueue({ concurrency: 1 });

parentPort!.on('message', (request: DatabaseRequest) => {
  void queue.add(async () => {
    try {
      if (request.kind === 'close') {
        await database.close();
        answer({ id: request.id, rows: [] });
        process.exit(0);
      } else if (request.kind === 'script') {
        await database.exec(request.sql);
        answer({ id: request.id, rows: [] });
      } else {
        const { rows } = await database.query(request.sql, request.params);
        answer({ id: request.id, rows: rows as Record<string, unknown>[] });
      }
    } catch (error) {
      const { code } = error as { code?: unknown };
      answer({
        id: request.id,
        error: error instanceof Error ? error.message : String(error),
        code: typeof code === 'string' ? code : undefined
      });
    }
  });
});
answer({ id: 0, rows: [] });
