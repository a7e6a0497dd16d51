<!-- Three ways in for who has no session of his own yet: the demo, own audio, a template. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import { goto } from '$app/navigation';
  import FileInput from '$lib/ui/FileInput.svelte';
  import { handFiles, rateOf } from '$lib/state/handed';
  import { beginPath } from '$lib/state/demoPath.svelte';
  import type { Shelf } from '$lib/state/shelf.svelte';

  type Props = { shelf: Shelf; ontemplate: () => void };
  let { shelf, ontemplate }: Props = $props();
  const RATES = [44100, 48000, 88200, 96000, 176400, 192000];
  let chosen = $state<FileInput>();
  const has = (id: string) => shelf.sessions?.some((session) => session.id === id) ?? false;

  const bring = async (files: File[]) => {
    const rate = await rateOf(files);
    const name = `New session of ${new Date().toLocaleDateString('en', { day: 'numeric', month: 'long', year: 'numeric' })}`;
    const id = await shelf.create({ name, rate: rate !== null && RATES.includes(rate) ? rate : 48000, bpm: 120 });
    if (!id) return;
    handFiles(id, files);
    await goto(`/s/${id}/roster`);
  };
  const walk = async () => {
    beginPath('ferry-shed');
    await goto('/s/ferry-shed/roster');
  };
</script>

<section aria-label="Ways in">
  {#if has('ferry-shed')}
    <article>
      <h2>Try the demo</h2>
      <p>
        “Ferry Shed”: a steel-pan and brass band with a choir, 24 badly named files of 48 s. The whole job in six steps, left whenever you
        like.
      </p>
      <div class="act">
        <Button size="xs" onclick={() => void walk()}>Walk through it in six steps</Button>
        {#if has('ferry-shed-finished')}<a href="/s/ferry-shed-finished/ledger">or see it finished</a>{/if}
      </div>
    </article>
  {/if}
  <article>
    <h2>Bring in audio</h2>
    <p>WAV, RF64, AIFF, FLAC, Ogg or MP3: choose the files of a session. Each becomes a track; the sample rate is that of the first.</p>
    <div class="act"><Button size="xs" color="alternative" onclick={() => chosen?.choose()}>Choose files…</Button></div>
  </article>
  <article>
    <h2>From a template</h2>
    <p>Tracks, buses, returns and stems are there already; audio is poured into them afterwards.</p>
    <div class="act"><Button size="xs" color="alternative" onclick={ontemplate}>Choose a template…</Button></div>
  </article>
</section>
<FileInput bind:this={chosen} label="Audio files" onfiles={(files) => void bring(files)} />

<style>
  section {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(240px, 1fr));
    border: 1px solid var(--line);
    border-radius: 10px;
    background: var(--sheet);
  }
  article {
    display: grid;
    grid-template-rows: auto 1fr auto;
    gap: 6px;
    padding: 16px 18px;
  }
  article + article {
    border-left: 1px solid var(--line);
  }
  h2 {
    margin: 0;
    font-size: 15px;
    font-weight: 700;
  }
  p {
    margin: 0;
    color: var(--muted);
  }
  .act {
    display: flex;
    align-items: center;
    gap: 10px;
    margin-top: 8px;
  }
  a {
    color: var(--kelp);
    text-decoration: underline;
  }
</style>
