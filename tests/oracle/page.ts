// The page without a browser: a stand-in for the server that plans with the same core, and a desk of real store and selection on it.
import { vi } from 'vitest';
import type { Command } from '../../core/commands/index.ts';
import { planBatch } from '../../core/commands/plan.ts';
import { commit, decodeChanges, encodeChanges, type Change } from '../../core/session/changes.ts';
import type { Session } from '../../core/session/entities.ts';
import { encodeSession } from '../../core/session/tables.ts';
import type { Desk } from '../../src/lib/state/desk';
import { createSelection } from '../../src/lib/state/selection.svelte';
import { createSessionStore } from '../../src/lib/state/session.svelte';

type Body = { base: number; id: string; gesture: string | null; commands: Command[] };

/** A stand-in for the commands endpoint: keeps a session, remembers what pages missed, can be slow or away. */
export function fakeServer(session: Session) {
  const log: Change[][] = [];
  const bodies: Body[] = [];
  let away = false;
  /** Answers that take the place of the next ones. */
  const refusals: { status: number; body: string }[] = [];
  const apply = (commands: Command[]) => {
    const planned = planBatch(session, commands);
    if (!planned.ok) return planned;
    commit(session, planned.value.changes);
    log.push(planned.value.changes);
    return planned;
  };
  const answer = (_: unknown, init: RequestInit): Response => {
    if (away) throw new TypeError('network');
    const instead = refusals.shift();
    if (instead) return new Response(instead.body, { status: instead.status });
    const body = JSON.parse(init.body as string) as Body;
    bodies.push(body);
    const missed = log
      .slice(body.base)
      .map((changes, i) => ({ revision: body.base + i + 1, id: 'theirs', changes: encodeChanges(changes) }));
    const planned = apply(body.commands);
    if (!planned.ok) return new Response(JSON.stringify({ error: planned.error }), { status: 422 });
    const history = { undo: { id: body.id, label: planned.value.label }, redo: null };
    return new Response(
      JSON.stringify({
        revision: log.length,
        missed,
        changes: encodeChanges(decodeChanges(encodeChanges(planned.value.changes))),
        history
      })
    );
  };
  const refuse = (status: number, code: string | null, times = 1) => {
    const body = code ? JSON.stringify({ error: { code, message: 'That went wrong.' } }) : '<html>Bad gateway</html>';
    refusals.push(...Array.from({ length: times }, () => ({ status, body })));
  };
  return { session, bodies, apply, answer, refuse, leave: () => (away = true), comeBack: () => (away = false) };
}

/** A desk whose store talks to such a server; `said` is what a person was told. Unstub `fetch` when done. */
export function pageDesk(session: Session) {
  const server = fakeServer(session);
  vi.stubGlobal(
    'fetch',
    vi.fn((url: unknown, init: RequestInit) => Promise.resolve().then(() => server.answer(url, init)))
  );
  const store = createSessionStore('s', {
    revision: 0,
    document: encodeSession(session),
    history: { undo: null, redo: null }
  });
  // No view of rows reaches for transport, importer or the list of commands on its own.
  const desk = { store, selection: createSelection() } as unknown as Desk;
  return { desk, server, said: () => store.notice?.text ?? '' };
}
