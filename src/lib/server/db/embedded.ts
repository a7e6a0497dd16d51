// PostgreSQL embedded (PGlite) in the data directory, in its own thread; requests go to it one at a time.
import { readFile } from 'node:fs/promises';
import { Worker } from 'node:worker_threads';
import PQueue from 'p-queue';
import { builtFile } from '../paths';
import type { Database, Query, Row } from './database';
import type { DatabaseAnswer, DatabaseRequest } from './protocol';

type Unnumbered<T> = T extends { id: number } ? Omit<T, 'id'> : never;
type Waiting = { readonly resolve: (rows: Row[]) => void; readonly reject: (error: Error) => void };

export async function openEmbedded(directory: string): Promise<Database> {
  const template = new Uint8Array(await readFile(builtFile('empty-database.tar.gz')));
  const worker = new Worker(builtFile('threads/database.js'), { workerData: { directory, template } });
  const waiting = new Map<number, Waiting>();
  let last = 0;
  let broken: Error | null = null;

  const opened = new Promise<Row[]>((resolve, reject) => waiting.set(0, { resolve, reject }));
  worker.on('message', (answer: DatabaseAnswer) => {
    const request = waiting.get(answer.id);
    waiting.delete(answer.id);
    if ('error' in answer) request?.reject(Object.assign(new Error(answer.error), { code: answer.code }));
    else request?.resolve(answer.rows);
  });
  const fail = (error: Error) => {
    broken = error;
    for (const request of waiting.values()) request.reject(error);
    waiting.clear();
  };
  worker.on('error', fail);
  worker.on('exit', () => fail(new Error('The database has stopped. Start Isotaxis again.')));

  const ask = (request: Unnumbered<DatabaseRequest>): Promise<Row[]> => {
    if (broken) return Promise.reject(broken);
    const id = ++last;
    return new Promise((resolve, reject) => {
      waiting.set(id, { resolve, reject });
      worker.postMessage({ ...request, id });
    });
  };
  const query: Query = (sql, params = []) => ask({ kind: 'query', sql, params });

  // One user of the connection at a time: a transaction holds it from BEGIN to COMMIT.
  const queue = new PQueue({ concurrency: 1 });
  const inTurn = <T>(work: () => Promise<T>): Promise<T> => queue.add(work) as Promise<T>;

  await opened.catch((error: Error) => {
    throw new Error(
      `The database in ${directory} cannot be opened: it is damaged, or was made by another version (${error.message}). ` +
        'Put a copy of that folder back, or move it away to begin anew; recordings and prints lie beside it and stay.'
    );
  });
  return {
    query: (sql, params) => inTurn(() => query(sql, params)),
    transaction: (work) =>
      inTurn(async () => {
        await query('begin');
        try {
          const result = await work(query);
          await query('commit');
          return result;
        } catch (error) {
          // Where the thread has stopped, its end was the rollback; the first error says why.
          if (!broken) await query('rollback');
          throw error;
        }
      }),
    regained: () => 0,
    close: async () => {
      await inTurn(() => ask({ kind: 'close' }));
    }
  };
}
