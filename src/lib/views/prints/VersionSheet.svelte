<!-- The version sheet: versions by stems, the mix chain's inserts, its fader and fades. A cell is in or out at a click, a level by typing. -->
<script lang="ts">
  import { v4 as uuid } from 'uuid';
  import { Button, Checkbox } from 'flowbite-svelte';
  import { onMount, tick } from 'svelte';
  import Play from '@lucide/svelte/icons/play';
  import { tracksOf } from '$core/prints/words';
  import type { Version } from '$core/session/entities';
  import { useDesk } from '$lib/state/desk';
  import { family } from '$lib/ui/colours';
  import Empty from '$lib/ui/Empty.svelte';
  import Menu, { type MenuEntry } from '$lib/ui/Menu.svelte';
  import { isPress } from '$lib/ui/keys';
  import ApartDialog from './ApartDialog.svelte';
  import { cellText, isIn, partsOf, setting, withCell } from './cells';
  import type { Place } from './grid.svelte';
  import type { Choice } from './order.svelte';
  import { createSheet } from './sheet.svelte';
  import UsualDialog from './UsualDialog.svelte';
  import VersionCell from './VersionCell.svelte';
  import VersionHead from './VersionHead.svelte';
  import { addNew, duplicate, versionCommands, versionMenu, type Hands } from './versionMenus';

  let { choice }: { choice: Choice } = $props();
  const { store, transport, commands } = useDesk();
  let table = $state<HTMLElement>();
  let menu = $state.raw<{ x: number; y: number; entries: MenuEntry[] } | null>(null);
  let usual = $state(false);
  let apart = $state.raw<Version | null>(null);
  let renaming = $state<string | null>(null);
  let typing = $state<string | null>(null);
  /** Whether what is heard changes with the bar. */
  let onBar = $state(false);

  const sheet = createSheet(useDesk(), (place) => void focus(place));
  const { grid } = sheet;
  const { versions, rows, stems, notes, left } = $derived(sheet);
  const nameOf = (id: string) => store.channel(id)?.name ?? '';

  const focus = async ({ row, column }: Place) => {
    await tick();
    table?.querySelector<HTMLElement>(`[data-place="${row} ${column}"]`)?.focus({ preventScroll: false });
  };
  const go = (to: Place, extend = false) => {
    grid.go(to, extend);
    void focus(grid.at);
  };
  const turn = () => {
    const row = rows[grid.at.row];
    const version = versions[grid.at.column];
    if (!row || !version) return;
    if (row.kind === 'apart') apart = version;
    else sheet.put(isIn(version, row) ? 'out' : 'in');
  };
  const hear = (id: string | null) => {
    const same = transport.hearing.version === id && transport.hearing.next === undefined;
    transport.hear(same ? null : id, onBar);
    if (!transport.playing) void transport.toggle();
  };
  const now = () => versions[grid.at.column];
  const hands: Hands = {
    turn,
    hear: (version) => hear(version.id),
    heard: (version) => transport.hearing.version === version.id,
    rename: (version) => (renaming = version.id),
    setApart: (version) => (apart = version),
    usual: () => (usual = true)
  };
  onMount(() => commands.add(versionCommands(sheet, choice, hands, now)));
  const openMenu = (event: MouseEvent, column: number) => {
    event.preventDefault();
    if (!grid.columns.includes(column)) grid.go({ row: -1, column });
    menu = { x: event.clientX, y: event.clientY, entries: versionMenu(sheet, choice, hands, versions[column]) };
  };
  const fillMenu = (event: MouseEvent & { currentTarget: HTMLElement }) => {
    const box = event.currentTarget.getBoundingClientRect();
    menu = { x: box.left, y: box.bottom + 4, entries: sheet.fills() };
  };

  const STEPS: Record<string, readonly [number, number]> = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] };
  const onkeydown = (event: KeyboardEvent) => {
    if ((event.target as Element).closest('input')) return;
    const { at } = grid;
    const version = versions[at.column];
    const step = STEPS[event.key];
    const row = rows[at.row];
    if (!version) return;
    if (event.altKey && step?.[1]) sheet.move(step[1] as 1 | -1);
    else if (step) go({ row: at.row + step[0], column: at.column + step[1] }, event.shiftKey);
    else if (event.key === 'Home') go({ row: at.row, column: 0 }, event.shiftKey);
    else if (event.key === 'End') go({ row: at.row, column: versions.length - 1 }, event.shiftKey);
    else if (isPress(event, '$mod+c')) sheet.copy();
    else if (isPress(event, '$mod+v')) void sheet.paste();
    else if (event.ctrlKey || event.metaKey) return;
    else if (isPress(event, 'h')) hear(version.id);
    else if (isPress(event, 'p')) sheet.chosen().forEach(({ id }) => choice.turnVersion(id));
    else if (isPress(event, 'd')) duplicate(sheet, version);
    else if (isPress(event, 'F2') || (isPress(event, 'Enter') && at.row === -1)) renaming = version.id;
    else if (isPress(event, 'Delete', 'Backspace')) {
      if (at.row === -1) sheet.remove();
      else sheet.put('mix');
    } else if (isPress(event, 'Space') && at.row === -1) hear(version.id);
    else if (isPress(event, 'Space', 'Enter')) turn();
    else if (row?.kind === 'stem' && /^[-−+\d.]$/.test(event.key)) typing = event.key;
    else return;
    event.preventDefault();
    event.stopPropagation();
  };

  /** A stretch of cells being painted in or out, and a head that is dragged to another place. */
  let painting: { readonly value: 'in' | 'out'; readonly gesture: string } | null = null;
  let dragged = $state<string | null>(null);
  const placeOf = (target: EventTarget | null): Place | null => {
    const place = (target as Element | null)?.closest<HTMLElement>('[data-place]')?.dataset.place?.split(' ').map(Number);
    return place ? { row: place[0], column: place[1] } : null;
  };
  const paint = (place: Place) => {
    const [row, version] = [rows[place.row], versions[place.column]];
    if (painting && row && version && row.kind !== 'apart')
      store.act(setting(version, withCell(partsOf(version), row, painting.value)), painting.gesture);
  };
  const onpointerdown = (event: PointerEvent) => {
    const place = placeOf(event.target);
    if (!place || event.button !== 0 || (event.target as Element).closest('button, input')) return;
    event.preventDefault();
    if (event.shiftKey) return go(place, true);
    const [row, version] = [rows[place.row], versions[place.column]];
    go(place);
    if (place.row === -1) return void (dragged = version.id);
    if (row.kind === 'apart') return void (apart = version);
    painting = { value: isIn(version, row) ? 'out' : 'in', gesture: uuid() };
    paint(place);
  };
  /** However the keyboard came to a place, it is where one is. */
  const onfocusin = (event: FocusEvent) => {
    const place = placeOf(event.target);
    if (place && (place.row !== grid.at.row || place.column !== grid.at.column)) grid.go(place);
  };
  const onpointerover = (event: PointerEvent) => {
    const place = placeOf(event.target);
    if (place && painting) paint(place);
  };
  const onpointerup = (event: PointerEvent) => {
    painting = null;
    const place = dragged === null ? null : placeOf(event.target);
    const from = versions.findIndex(({ id }) => id === dragged);
    if (place && from >= 0 && place.column !== from) {
      const ids = versions.map(({ id }) => id);
      ids.splice(place.column, 0, ...ids.splice(from, 1));
      store.act([{ do: 'versions.order', ids }]);
      go({ row: -1, column: place.column });
    }
    dragged = null;
  };
  /** Those stems' tracks muted, for which the version is rendered by itself. */
  const silence = (version: Version, gone: readonly { readonly stem: string }[]) => {
    const ids = new Set(gone.flatMap(({ stem }) => tracksOf(store.session, stem)));
    const channels = [...version.channels.filter(({ id }) => !ids.has(id)), ...[...ids].map((id) => ({ id, mute: true }))];
    store.act([{ do: 'versions.set', id: version.id, channels }]);
  };
</script>

<svelte:window {onpointerup} onpointercancel={() => (painting = dragged = null)} />

<section aria-label="Version sheet">
  <header>
    <h2>Version sheet</h2>
    <span class="muted">what each version is made of</span>
    <span class="grow"></span>
    <Checkbox bind:checked={onBar} data-hint="What is heard changes where the next bar begins">on the bar</Checkbox>
    <Button color="alternative" aria-haspopup="menu" onclick={fillMenu}>Fill…</Button>
    <Button color="alternative" aria-haspopup="dialog" onclick={() => (usual = true)}>Usual versions…</Button>
  </header>
  {#if versions.length === 0}
    <Empty
      says="No versions yet."
      hint={stems.length
        ? 'A version is the mix without a stem, with one louder, or through another chain. Each is heard here before it is printed.'
        : 'A version is the mix without a stem, with one louder, or through another chain. First make the buses that go into the mix bus stems, at the right.'}
    >
      <Button onclick={() => (usual = true)}>Usual versions…</Button>
      <Button color="alternative" onclick={() => addNew(sheet)}>+ Version</Button>
    </Empty>
  {/if}
  <div class="scroll" hidden={versions.length === 0}>
    <div
      class="sheet"
      role="grid"
      tabindex="-1"
      aria-label="Versions by stems"
      aria-multiselectable="true"
      bind:this={table}
      style:grid-template-columns="216px repeat({Math.max(1, versions.length)}, 98px) minmax(96px, 1fr)"
      {onkeydown}
      {onpointerdown}
      {onpointerover}
      {onfocusin}
    >
      <div class="row" role="row">
        <div class="corner" role="columnheader">
          <button
            class="hear"
            aria-pressed={transport.hearing.version === null}
            onclick={() => transport.hearing.version !== null && hear(null)}><Play size={10} fill="currentColor" /> the mix</button
          >
          <span class="count"
            >{stems.length} stem{stems.length === 1 ? '' : 's'} × {versions.length} version{versions.length === 1 ? '' : 's'}</span
          >
        </div>
        {#each versions as version, column (version.id)}
          <div
            class="head"
            class:selected={grid.has({ row: -1, column })}
            class:dragged={dragged === version.id}
            role="columnheader"
            data-place="-1 {column}"
            tabindex={grid.at.row === -1 && grid.at.column === column ? 0 : -1}
            aria-label={version.name}
            oncontextmenu={(event) => openMenu(event, column)}
          >
            <VersionHead
              {version}
              printed={choice.prints(version.id)}
              heard={transport.hearing.version === version.id}
              next={transport.hearing.next === version.id}
              note={notes.get(version.id) ?? ''}
              renaming={renaming === version.id}
              hands={{
                print: () => choice.turnVersion(version.id),
                hear: () => hear(version.id),
                rename: (name) => store.act([{ do: 'versions.set', id: version.id, name }]),
                renaming: (on) => {
                  renaming = on ? version.id : null;
                  if (!on) void focus(grid.at);
                }
              }}
            />
          </div>
        {/each}
        <div class="more" role="columnheader" aria-label="A new one">
          <Button color="alternative" onclick={() => addNew(sheet)}>+ Version</Button>
        </div>
      </div>
      {#each rows as row, place (`${row.kind} ${row.id}`)}
        {#if row.kind !== 'stem' && rows[place - 1]?.kind === 'stem'}<div class="caption">The mix chain</div>{/if}
        <div class="row" role="row">
          <div
            class="title"
            class:stem={row.kind === 'stem'}
            class:chosen={!grid.whole && grid.rows.includes(place)}
            role="rowheader"
            tabindex="-1"
            onpointerdown={(event) => {
              event.preventDefault();
              go({ row: place, column: grid.at.column }, event.shiftKey);
            }}
          >
            {#if row.kind === 'stem'}
              <i style:background={row.colour === null ? 'var(--line)' : family(row.colour)}></i>
              <span>{row.name}</span><span class="num muted" data-hint="Tracks in it">{row.tracks}</span>
            {:else}<span>{row.name}</span>{#if row.kind === 'insert' && row.bypass}<span class="muted">off in the mix</span>{/if}{/if}
          </div>
          {#each versions as version, column (version.id)}
            {@const here = { row: place, column }}
            {@const text = cellText(store.session, version, row)}
            <div
              class="cell"
              class:apart={row.kind === 'apart'}
              role="gridcell"
              data-place="{place} {column}"
              tabindex={grid.at.row === place && grid.at.column === column ? 0 : -1}
              aria-label="{row.name} in {version.name}: {text || 'none'}"
              aria-selected={grid.has(here)}
              oncontextmenu={(event) => openMenu(event, column)}
            >
              <VersionCell
                {version}
                {row}
                {text}
                selected={grid.large && grid.has(here)}
                typing={grid.at.row === place && grid.at.column === column ? typing : null}
                ontyped={(value) => {
                  typing = null;
                  sheet.put(value);
                  void focus(grid.at);
                }}
                onclose={() => (typing = null)}
              />
            </div>
          {/each}
          <div class="rest"></div>
        </div>
      {/each}
    </div>
  </div>
  {#each left as { version, stems: gone } (version.id)}
    <p class="note">
      <strong>{version.name}</strong>:
      {gone.map(({ stem, inside }) => `${nameOf(stem)} goes on in ${inside.map(nameOf).join(', ')}`).join('; ')}.
      <button class="link" onclick={() => silence(version, gone)}>Silence {gone.length === 1 ? 'its' : 'their'} tracks</button>
      <span class="muted">by a pass of its own</span>
    </p>
  {/each}
</section>

{#if menu}<Menu {...menu} onclose={() => (menu = null)} />{/if}
{#if usual}<UsualDialog onclose={() => (usual = false)} />{/if}
{#if apart}<ApartDialog version={apart} onclose={() => (apart = null)} />{/if}

<style>
  section {
    border-bottom: 1px solid var(--line);
  }
  header {
    display: flex;
    align-items: center;
    gap: 8px;
    padding: 8px 12px;
    border-bottom: 1px solid var(--line);
  }
  h2 {
    margin: 0;
    font-size: 14px;
    font-weight: 650;
  }
  .muted {
    color: var(--muted);
    font-weight: 400;
  }
  .grow {
    flex: 1;
  }
  .scroll {
    overflow-x: auto;
  }
  .sheet {
    display: grid;
    min-width: fit-content;
    outline: none;
    user-select: none;
  }
  .row {
    display: grid;
    grid-column: 1 / -1;
    grid-template-columns: subgrid;
  }
  .corner,
  .title {
    position: sticky;
    left: 0;
    z-index: 1;
    background: var(--paper);
  }
  .corner {
    display: flex;
    flex-direction: column;
    justify-content: flex-end;
    gap: 6px;
    padding: 6px 10px;
  }
  .count,
  .caption {
    color: var(--muted);
    font-size: 12px;
  }
  .caption {
    grid-column: 1 / -1;
    padding: 9px 10px 4px;
    border-top: 1px solid var(--hair);
  }
  .corner .hear {
    display: inline-flex;
    align-items: center;
    gap: 4px;
    width: fit-content;
    padding: 0 5px;
    border-radius: 4px;
    color: var(--muted);
    font-size: 11.5px;
    line-height: 18px;
  }
  .corner .hear[aria-pressed='true'] {
    box-shadow: inset 0 0 0 1px var(--kelp);
    color: var(--kelp);
  }
  .head {
    display: flex;
    flex-direction: column;
    justify-content: flex-end;
    gap: 3px;
    min-height: 74px;
    padding: 6px 6px 5px 8px;
    border-left: 1px solid var(--hair);
    cursor: grab;
  }
  .head.selected {
    background: color-mix(in oklch, var(--kelp) 9%, transparent);
  }
  .head.dragged {
    opacity: 0.6;
  }
  .more {
    align-self: end;
    padding: 0 0 8px 10px;
    border-left: 1px solid var(--hair);
  }
  .row:nth-child(n + 2) > * {
    border-top: 1px solid var(--hair);
  }
  .title {
    display: flex;
    align-items: center;
    gap: 8px;
    min-height: 30px;
    padding-right: 9px;
    padding-left: 10px;
  }
  .title.chosen {
    background: color-mix(in srgb, var(--kelp) 10%, var(--paper));
  }
  .title.stem {
    padding-left: 0;
    font-weight: 650;
    letter-spacing: 0.02em;
  }
  .title i {
    align-self: stretch;
    width: 9px;
    flex: none;
  }
  .title span:first-of-type {
    flex: 1;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .title .muted {
    flex: none;
    font-size: 12px;
  }
  .cell,
  .rest {
    height: 30px;
    border-left: 1px solid var(--hair);
  }
  .cell {
    cursor: pointer;
  }
  .cell.apart {
    height: auto;
    min-height: 30px;
  }
  .cell:focus-visible,
  .head:focus-visible {
    outline: 2px solid var(--kelp);
    outline-offset: -2px;
  }
  p {
    margin: 0;
    padding: 8px 12px;
  }
  .note {
    padding: 5px 12px;
    font-size: 12.5px;
  }
  .link {
    color: var(--kelp);
    text-decoration: underline;
    text-underline-offset: 3px;
  }
</style>
