// The sessions page's state: all sessions, the bin, and what is on disk, as the server has them; and what is done to them.
import { v4 as uuid } from 'uuid';
import type { SessionBrief } from '../server/shelf';
import type { StorageReport } from '../server/storage';
import { ask, refusalIn } from './api';

export type { SessionBrief, StorageReport };
export type TemplateBrief = { readonly name: string; readonly tracks: number; readonly buses: number; readonly returns: number };
export type Restored = {
  readonly made: string;
  readonly sessions: number;
  readonly binned: number;
  readonly missing: readonly string[];
  readonly damaged: readonly string[];
  readonly names: Readonly<Record<string, string>>;
};

/** What a backup lacks, in words: " Missing: Surdo.wav. Damaged: mix.wav." Where many are, some are named. */
export function lacking({ missing, damaged }: Pick<Restored, 'missing' | 'damaged'>, names: Restored['names'] = {}): string {
  const MOST = 5;
  const called = (entry: string) => names[entry] ?? entry.split('/').pop()!;
  const said = (what: string, list: readonly string[]) =>
    list.length === 0
      ? ''
      : ` ${what}: ${list.slice(0, MOST).map(called).join(', ')}${list.length > MOST ? ` and ${list.length - MOST} more` : ''}.`;
  return `${said('Missing', missing)}${said('Damaged', damaged)}`;
}
export type Shelf = ReturnType<typeof createShelf>;

export function createShelf() {
  let sessions = $state.raw<readonly SessionBrief[] | null>(null);
  let bin = $state.raw<readonly SessionBrief[]>([]);
  let storage = $state.raw<StorageReport | null>(null);
  let templates = $state.raw<readonly TemplateBrief[]>([]);
  let guarded = $state(false);
  let notice = $state('');
  /** 0 … 1 of a backup's bytes sent; 1 while the server works on it; null where none is. */
  let restoring = $state<number | null>(null);

  const said = (answer: { readonly ok: boolean; readonly error?: { readonly message: string } }, good: string): boolean => {
    notice = answer.ok ? good : (answer.error?.message ?? '');
    return answer.ok;
  };

  const load = async () => {
    const [all, binned, known, door] = await Promise.all([
      ask<{ sessions: SessionBrief[] }>('GET', '/api/sessions'),
      ask<{ sessions: SessionBrief[] }>('GET', '/api/sessions?bin=1'),
      ask<{ templates: TemplateBrief[] }>('GET', '/api/templates'),
      ask<{ guarded: boolean }>('GET', '/api/door')
    ]);
    if (!all.ok) return void (notice = all.error.message);
    sessions = all.value.sessions;
    if (binned.ok) bin = binned.value.sessions;
    if (known.ok) templates = known.value.templates;
    if (door.ok) guarded = door.value.guarded;
  };
  const loadStorage = async () => {
    const answer = await ask<StorageReport>('GET', '/api/storage');
    if (answer.ok) storage = answer.value;
    else notice = answer.error.message;
  };
  const after = async (answer: Parameters<typeof said>[0], good: string): Promise<boolean> => {
    const done = said(answer, good);
    await load();
    if (storage) await loadStorage();
    return done;
  };

  return {
    get sessions() {
      return sessions;
    },
    get bin() {
      return bin;
    },
    get storage() {
      return storage;
    },
    get templates() {
      return templates;
    },
    get guarded() {
      return guarded;
    },
    get notice() {
      return notice;
    },
    get restoring() {
      return restoring;
    },
    say: (text: string) => void (notice = text),
    load,
    loadStorage,
    /** A new session; its id, or null where it could not be made. */
    create: async (order: { name: string; rate: number; bpm: number; template?: string }): Promise<string | null> => {
      const answer = await ask<{ id: string }>('POST', '/api/sessions', order);
      said(answer, '');
      return answer.ok ? answer.value.id : null;
    },
    /** Opens a package as a session; its id and what was mended in it. */
    openPackage: async (file: File): Promise<{ id: string; mended: string } | null> => {
      notice = `Opening ${file.name}…`;
      const answer = await ask<{ id: string; mended: string[] }>('POST', '/api/packages', file);
      if (!said(answer, '')) notice = `${file.name} was not opened: ${notice}`;
      return answer.ok ? { id: answer.value.id, mended: answer.value.mended.join(' ') } : null;
    },
    duplicate: async ({ id, name }: SessionBrief, as: string) =>
      after(await ask('POST', `/api/sessions/${id}/duplicate`, { name: as }), `“${name}” is here twice: the copy is called “${as}”.`),
    /** A name is the session's own setting: it is changed by a command, and can be undone in the session. */
    rename: async ({ id, name }: SessionBrief, as: string) =>
      after(
        await ask('POST', `/api/sessions/${id}/commands`, {
          base: 0,
          id: uuid(),
          commands: [{ do: 'settings.set', name: as }]
        }),
        `“${name}” is called “${as}” now.`
      ),
    remove: async ({ id, name }: SessionBrief) =>
      after(await ask('DELETE', `/api/sessions/${id}`), `“${name}” lies in the bin for 30 days.`),
    restore: async ({ id, name }: SessionBrief) => after(await ask('POST', `/api/sessions/${id}/restore`), `“${name}” is back.`),
    removeForGood: async ({ id, name }: SessionBrief) =>
      after(
        await ask('DELETE', `/api/sessions/${id}?final=1`),
        `“${name}” is gone. Its recordings are under Storage, if nothing else needs them.`
      ),
    clearUnused: async () => {
      const answer = await ask<{ recordings: number; prints: number; bytes: number }>('DELETE', '/api/storage/unused');
      const { recordings = 0, prints = 0 } = answer.ok ? answer.value : {};
      await after(answer, `Removed: ${recordings} recordings and ${prints} prints.`);
    },
    /** Sends a backup up and has it restored. */
    restoreBackup: (file: File): Promise<void> =>
      new Promise((resolve) => {
        const request = new XMLHttpRequest();
        request.open('POST', '/api/backup');
        request.setRequestHeader('Content-Type', 'application/octet-stream');
        request.upload.onprogress = ({ loaded }) => (restoring = file.size ? Math.min(0.99, loaded / file.size) : 0.99);
        request.upload.onload = () => (restoring = 1);
        const end = (text: string) => {
          restoring = null;
          notice = text;
          void load().then(loadStorage).then(resolve);
        };
        request.onerror = () => end('The server did not answer. Nothing was restored as far as this page can tell: look at the sessions.');
        request.onload = () => {
          if (request.status !== 200) return end(refusalIn(request.responseText).message);
          const { sessions: count, binned, ...rest } = JSON.parse(request.responseText) as Restored;
          end(
            `Restored: ${count} sessions.${binned ? ` ${binned} that were here otherwise lie in the bin.` : ''}${lacking(rest, rest.names)}`
          );
        };
        restoring = 0;
        request.send(file);
      })
  };
}
