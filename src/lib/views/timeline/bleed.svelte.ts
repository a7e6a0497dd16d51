// Bleed of a track while one looks for it: its levels, how it is told apart, what is proposed and which of that is chosen.
import { BLEED_HOW, findBleed, type Bleed, type BleedHow } from '$core/measure/bleed';
import { ask } from '$lib/state/api';
import type { SessionStore } from '$lib/state/session.svelte';

export type BleedSearch = ReturnType<typeof createBleedSearch>;

export function createBleedSearch(store: SessionStore) {
  let channelId = $state<string | null>(null);
  let levels = $state.raw<Float32Array | null>(null);
  let how = $state.raw<BleedHow>(BLEED_HOW);
  /** Proposals left out, by where they begin. */
  let left = $state.raw<ReadonlySet<number>>(new Set());
  let serial = 0;
  const found = $derived<Bleed | null>(levels && findBleed(levels, store.settings.rate, how));

  const measure = async (id: string) => {
    const mine = ++serial;
    const answer = await ask<{ levels: (number | null)[] }>('GET', `/api/sessions/${store.id}/levels?track=${id}`);
    if (mine !== serial) return;
    if (!answer.ok) {
      channelId = null;
      return store.say(answer.error.message);
    }
    levels = Float32Array.from(answer.value.levels, (level) => level ?? -Infinity);
  };
  const close = () => {
    serial++;
    channelId = levels = null;
  };
  return {
    get channelId() {
      return channelId;
    },
    get levels() {
      return levels;
    },
    get found() {
      return found;
    },
    get how() {
      return how;
    },
    /** Looks for a track's bleed, by its own threshold at first. */
    open: (id: string) => {
      channelId = id;
      levels = null;
      how = { ...how, thresholdDb: null };
      left = new Set();
      return measure(id);
    },
    close,
    set: (fields: Partial<BleedHow>) => (how = { ...how, ...fields }),
    chosen: (from: number) => !left.has(from),
    turn: (from: number) => {
      const next = new Set(left);
      if (!next.delete(from)) next.add(from);
      left = next;
    },
    /** Cuts what is chosen, as one entry. */
    cut: () => {
      const id = channelId;
      const ranges = (found?.proposals ?? []).flatMap(({ from, to }) => (left.has(from) ? [] : [{ from, to }]));
      if (ranges.length && store.act([{ do: 'clips.remove', channels: [id!], ranges }])) close();
    }
  };
}
