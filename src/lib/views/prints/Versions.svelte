<!-- The versions of the mix, each in a sentence: whether it is printed, and what of it needs a pass of its own. -->
<script lang="ts">
  import { ownPass } from '$core/prints/order';
  import { remains, tracksOf, versionWords } from '$core/prints/words';
  import type { Version } from '$core/session/entities';
  import { useDesk } from '$lib/state/desk';
  import NameEdit from '$lib/ui/NameEdit.svelte';
  import type { Choice } from './order.svelte';

  let { choice }: { choice: Choice } = $props();
  const { store } = useDesk();
  let renaming = $state<string | null>(null);
  const lines = $derived.by(() => {
    void store.soundness;
    return store.versions.map((version) => ({
      version,
      words: versionWords(store.session, version),
      left: remains(store.session, version)
    }));
  });
  const nameOf = (id: string) => store.session.channel.get(id)?.name ?? '';
  /** That stem's tracks muted, for which the version is rendered by itself. */
  const silence = (version: Version, stem: string) => {
    const ids = new Set(tracksOf(store.session, stem));
    const channels = [...version.channels.filter(({ id }) => !ids.has(id)), ...[...ids].map((id) => ({ id, mute: true }))];
    store.act([{ do: 'versions.set', id: version.id, channels }]);
  };
</script>

<section>
  <h2>Versions <span class="muted">what is other than in the mix</span></h2>
  {#if lines.length === 0}<p class="muted">
      None yet. A version is the mix without a stem, with one louder, or through another chain.
    </p>{/if}
  <ul>
    {#each lines as { version, words, left } (version.id)}
      <li>
        <button
          class="chip"
          aria-pressed={choice.prints(version.id)}
          aria-label="Print {version.name}"
          onclick={() => choice.turnVersion(version.id)}>{choice.prints(version.id) ? 'print' : 'not now'}</button
        >
        <span class="name">
          {#if renaming === version.id}
            <NameEdit
              value={version.name}
              label="Name of {version.name}"
              onname={(name) => store.act([{ do: 'versions.set', id: version.id, name }])}
              onclose={() => (renaming = null)}
            />
          {:else}<button class="rename" title="Double-click to rename" ondblclick={() => (renaming = version.id)}>{version.name}</button
            >{/if}
        </span>
        <span class="words">
          {words.length ? words.join('; ') : 'as the mix'}{#if ownPass(version)}<em>&nbsp;· a pass of its own</em>{/if}
          {#each left as { stem, inside } (stem)}
            <span class="note"
              >{nameOf(stem)} goes on in {inside.map(nameOf).join(', ')}.
              <button class="link" onclick={() => silence(version, stem)}>Silence its tracks</button></span
            >
          {/each}
        </span>
        <button
          class="gone"
          aria-label="Remove version {version.name}"
          title="Remove"
          onclick={() => store.act([{ do: 'versions.remove', ids: [version.id] }])}>×</button
        >
      </li>
    {/each}
  </ul>
</section>

<style>
  h2 {
    margin: 0 0 6px;
    font-size: 14px;
    font-weight: 650;
  }
  .muted {
    color: var(--muted);
    font-weight: 400;
    font-size: 13px;
  }
  ul {
    margin: 0;
    padding: 0;
    list-style: none;
  }
  li {
    display: grid;
    grid-template-columns: 62px minmax(110px, 170px) 1fr 26px;
    gap: 10px;
    align-items: baseline;
    padding: 5px 0;
    border-bottom: 1px solid var(--hair);
  }
  .name {
    font-weight: 600;
  }
  .rename {
    text-align: left;
    font-weight: 600;
  }
  .words {
    color: var(--muted);
  }
  em {
    color: var(--ochre);
    font-style: normal;
  }
  .note {
    display: block;
    color: var(--ink);
  }
  .link {
    color: var(--kelp);
    text-decoration: underline;
    text-underline-offset: 3px;
  }
  .chip {
    width: 58px;
    padding: 0 6px;
    border: 1px dashed var(--line);
    border-radius: 5px;
    color: var(--muted);
    font-size: 11px;
    line-height: 18px;
  }
  .chip[aria-pressed='true'] {
    border: 1px solid var(--kelp);
    color: var(--kelp);
  }
  .gone {
    color: var(--muted);
  }
  .gone:hover {
    color: var(--persimmon);
  }
</style>
