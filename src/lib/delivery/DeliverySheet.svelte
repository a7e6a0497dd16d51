<!-- The delivery sheet: one page on paper, light whatever the screen is, that says what was printed from what and what it proves. -->
<svelte:options css="injected" />

<script lang="ts">
  import type { Delivery } from '$core/prints/delivery';
  import { timeText } from '$lib/ui/format';
  import { FORMAT_WORDS } from '$lib/views/prints/words';

  let { delivery }: { delivery: Delivery } = $props();
  const { about, rate, files, nulls, ranges } = $derived(delivery);
  const level = (db: number | null) => (db === null ? '−∞' : db.toFixed(1).replace('-', '−'));
  const counted = (value: number | null) => (value === null ? '–' : value.toFixed(1).replace('-', '−'));
  const grouped = (value: number) => value.toLocaleString('en').replace(/,/g, '\u202f');
  const start = $derived(
    ranges.length
      ? ranges.map(({ from, to, name }) => `${name ? `${name}: ` : ''}frame ${grouped(from)} to ${grouped(to)}`).join('; ')
      : 'the start of the session, frame 0'
  );
  const additive = $derived(files.some((file) => file.additive));
  const chained = $derived(files.some(({ kind }) => kind === 'chained'));
  const facts = $derived([
    ['Format', `${FORMAT_WORDS[delivery.encoding]}${delivery.dither ? ', TPDF dither' : ', no dither'}`],
    ['Sample rate', `${grouped(rate)} Hz`],
    [
      'Length',
      `${timeText(delivery.frames, rate)} · ${grouped(delivery.frames)} frames${ranges.length > 1 ? ' of the first range, alike in all its files' : ', every file the same'}`
    ],
    ['Starts at', `${start}; time reference ${grouped(about.zero)}`],
    ['Tempo', `${about.bpm} BPM, ${about.beatsPerBar} beats to the bar`],
    ['Printed', `${delivery.printed.replace('T', ' ').replace('Z', ' UTC')}, revision ${delivery.revision}`]
  ]);
</script>

<svelte:head><title>{about.session} – delivery</title></svelte:head>

<main>
  <header>
    <h1>{about.session}</h1>
    <p>Delivery sheet · {files.length} file{files.length === 1 ? '' : 's'}</p>
  </header>
  <dl>
    {#each facts as [what, value] (what)}<div>
        <dt>{what}</dt>
        <dd>{value}</dd>
      </div>{/each}
  </dl>

  <h2>Files</h2>
  <table>
    <thead>
      <tr><th>File</th><th>Peak<br />dBFS</th><th>True peak<br />dBTP</th><th>Integrated<br />LUFS</th><th>Range<br />LU</th></tr>
    </thead>
    <tbody>
      {#each files as file (file.name)}
        <tr>
          <td>
            <strong>{file.name}</strong>{#if file.channels === 1}<em>&ensp;mono</em>{/if}
            <span>{file.made}</span>
            <code>SHA-256 {file.sha256}</code>
          </td>
          <td>{level(file.peakDb)}</td>
          <td>{level(file.truePeakDb)}</td>
          <td>{counted(file.lufs)}</td>
          <td>{counted(file.rangeLu)}</td>
        </tr>
      {/each}
    </tbody>
  </table>

  <h2>Do they add up?</h2>
  {#if nulls.length}
    <ul>
      {#each nulls as proof, i (i)}
        <li class:bad={!proof.holds}>
          <b>{proof.holds ? 'Yes' : 'No'}</b>
          {#if ranges.length > 1}{ranges[proof.range]?.name ?? `Part ${proof.range + 1}`}:{/if}
          {#if proof.of === 'stems'}All stems laid side by side at unity, less the mix-bus input
          {:else}All stems at unity through the mix chain, less {proof.name === 'mix' ? 'the mix' : proof.name}{/if}:
          {proof.db <= -300 ? 'nothing is left, to the bit' : `${level(proof.db)} dBFS are left at most`}; it has to stay under {level(
            proof.bar
          )} dBFS.
        </li>
      {/each}
    </ul>
    <p class="small">Worked out on these files read back, summed in double precision.</p>
  {:else}
    <p>
      Nothing is proved of these files: {additive
        ? 'neither the mix-bus input nor the mix is among them, or they were resampled.'
        : 'there are no stems among them, or not all of them.'}
    </p>
  {/if}
  {#if chained}<p>
      <b>Chained stems are not additive</b>: each went through the mix chain alone. Added up they are not the mix.
    </p>{/if}

  <h2>The mix chain</h2>
  <ul>
    {#each about.chain as stage, i (i)}
      <li>
        <b>{stage.channel}</b>
        {level(stage.levelDb)} dB{#each stage.inserts as insert, n (n)}{n === 0 ? ': ' : ', '}{insert.name}{insert.on
            ? ''
            : ' (off)'}{/each}
      </li>
    {/each}
  </ul>
  <p>
    In the mix and the versions unless a file says otherwise; left out of stems and of the mix-bus input.
    {about.fadeIn ? `Fade-in ${timeText(about.fadeIn, rate)}. ` : ''}{about.fadeOut ? `Fade-out ${timeText(about.fadeOut, rate)}.` : ''}
  </p>

  {#if about.stems.length}
    <h2>The stems</h2>
    <ul class="stems">
      {#each about.stems as stem, i (i)}
        <li>
          <b>{stem.name}</b>
          {stem.common ? '(common: shared by several) ' : ''}{stem.tracks.length ? stem.tracks.join(', ') : 'no tracks of its own'}
        </li>
      {/each}
    </ul>
    {#each about.flaws as flaw (flaw)}<p class="bad">{flaw}</p>{/each}
  {/if}
  {#if delivery.notes.length}
    <h2>Notes</h2>
    <ul>
      {#each delivery.notes as note, i (i)}<li>{note}</li>{/each}
    </ul>
  {/if}
</main>

<style>
  :global(html) {
    background: #fff;
  }
  main {
    max-width: 190mm;
    margin: 12mm auto;
    padding: 0 6mm;
    color: #20302f;
    font:
      10.5pt/1.4 'Atkinson Hyperlegible Next',
      system-ui,
      sans-serif;
  }
  header {
    display: flex;
    align-items: baseline;
    justify-content: space-between;
    border-bottom: 2px solid #17695a;
  }
  h1 {
    margin: 0;
    font-size: 18pt;
  }
  h2 {
    margin: 6mm 0 1.5mm;
    color: #17695a;
    font-size: 11.5pt;
    break-after: avoid;
  }
  p,
  ul,
  dl {
    margin: 1.5mm 0;
  }
  dl {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 1mm 8mm;
    margin-top: 4mm;
  }
  dl div {
    display: flex;
    gap: 3mm;
  }
  dt {
    width: 24mm;
    flex: none;
    color: #5a6562;
  }
  dd {
    margin: 0;
  }
  table {
    width: 100%;
    border-collapse: collapse;
  }
  th {
    padding: 1mm 2mm;
    border-bottom: 1px solid #20302f;
    color: #5a6562;
    font-size: 8.5pt;
    font-weight: 500;
    text-align: right;
    vertical-align: bottom;
  }
  th:first-child,
  td:first-child {
    padding-left: 0;
    text-align: left;
  }
  tr {
    break-inside: avoid;
  }
  td {
    padding: 1.2mm 2mm;
    border-bottom: 1px solid #dcd3c1;
    font-variant-numeric: tabular-nums;
    text-align: right;
    vertical-align: top;
  }
  td span,
  td code {
    display: block;
  }
  td span {
    color: #5a6562;
    font-size: 9.5pt;
  }
  td code {
    color: #68736f;
    font-size: 6.8pt;
  }
  em {
    color: #5a6562;
    font-style: normal;
  }
  ul {
    padding-left: 5mm;
  }
  .small {
    color: #5a6562;
    font-size: 9pt;
  }
  .bad {
    color: #a83c12;
  }
  @page {
    size: A4;
    margin: 14mm 12mm;
  }
  @media print {
    main {
      margin: 0;
      padding: 0;
    }
  }
</style>
