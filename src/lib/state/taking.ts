// Printing a bus or return so that it comes back as a track: asked for here, done by the server, heard of when it is there.
import type { Take } from '$core/prints/order';
import { ask } from './api';
import type { SessionStore } from './session.svelte';

const LOOK_MS = 400;
type Ended = { readonly status: string; readonly message: string; readonly notes: readonly string[] };

/** Begins it once all is saved, and says how it ended. */
export async function takeSound(store: SessionStore, ids: readonly string[], take: Take): Promise<void> {
  const files = ids.flatMap((id) => {
    const kind = store.session.channel.get(id)?.kind;
    return kind === 'bus' || kind === 'return' ? [{ kind, id }] : [];
  });
  while (store.saving === 'saving') await new Promise((resolve) => setTimeout(resolve, 20));
  if (store.saving === 'offline') return void store.say('The server does not answer. Try again when all is saved.');
  const asked = await ask<{ id: string }>('POST', `/api/sessions/${store.id}/prints`, { files, format: 'wav32f', take });
  if (!asked.ok) return void store.say(asked.error.message);
  store.say('Printing it. It comes back here as a track when it is done; Prints shows how far it is.');
  for (;;) {
    await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
    const job = await ask<Ended>('GET', `/api/prints/${asked.value.id}`);
    if (!job.ok) return void (job.error.code === 'offline' || store.say(job.error.message));
    const { status, message, notes } = job.value;
    if (status === 'running' || status === 'queued') continue;
    return void store.say(status === 'done' ? notes.at(-1)! : message);
  }
}
