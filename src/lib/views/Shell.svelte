<!-- What surrounds every view of a session: header with views, saving and undo; transport; drop target; messages. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import { onMount, untrack, type Snippet } from 'svelte';
  import { page } from '$app/state';
  import { drawMeters, redrawMeters } from '$lib/ui/meters';
  import { provideDesk, type Desk } from '$lib/state/desk';
  import { goto } from '$app/navigation';
  import { createPageCommands } from '$lib/state/commands.svelte';
  import { createImporter } from '$lib/state/importer.svelte';
  import { createSelection } from '$lib/state/selection.svelte';
  import { createSessionStore, type SessionAnswer } from '$lib/state/session.svelte';
  import { rowsBy } from '$core/session/lookup';
  import { keepOutbox } from '$lib/state/outbox';
  import { createFolding } from '$lib/state/folding.svelte';
  import { createLinking, pointedAt } from '$lib/state/linking.svelte';
  import { createNow } from '$lib/state/now';
  import { createWriting } from '$lib/state/writing.svelte';
  import { keyOf } from '$lib/ui/keyOf';
  import { onKeys, pressed } from '$lib/ui/keys';
  import { icon } from '$lib/ui/theme';
  import { openTransport } from '$lib/state/transport.svelte';
  import Message from '$lib/ui/Message.svelte';
  import TransportBar from '$lib/ui/TransportBar.svelte';
  import { takeFiles } from '$lib/state/handed';
  import AsideSheet from './AsideSheet.svelte';
  import DayNight, { isDark, turnTheme } from './DayNight.svelte';
  import EndedDialog from './EndedDialog.svelte';
  import DemoPath from './path/DemoPath.svelte';
  import ImportReport from './ledger/ImportReport.svelte';
  import Palette from './Palette.svelte';
  import SessionMenu from './SessionMenu.svelte';
  import ShortcutSheet from './ShortcutSheet.svelte';
  import Unplayed from './Unplayed.svelte';
  import { views } from './index';
  import Keyboard from '@lucide/svelte/icons/keyboard';

  let { id, answer, children }: { id: string; answer: SessionAnswer; children: Snippet } = $props();
  const store = untrack(() => createSessionStore(id, answer, keepOutbox(id)));
  const selection = createSelection();
  const importer = createImporter(store);
  const commands = createPageCommands();
  const linking = createLinking(store);
  let sheet = $state<'palette' | 'shortcuts' | 'aside' | 'unplayed' | null>(null);
  let desk = $state.raw<Desk | null>(null);
  let dropping = $state(false);
  let dark = $state(isDark());
  provideDesk(() => desk!);

  onMount(() => {
    const unfollow = store.follow();
    const unwatch = store.onChanges((changes) => {
      const gone = changes.flatMap(({ table, key, after }) => (table === 'channel' && after === null ? [key] : []));
      if (gone.length) selection.forget(new Set(gone));
      if (changes.some(({ table }) => GROUPED.has(table))) linking.again();
    });
    const transport = openTransport(store);
    const writing = createWriting(store, transport);
    const now = createNow(store, transport);
    desk = { store, transport, selection, importer, commands, linking, folding: createFolding(), now, writing };
    // What a hand does to a lane counts where it is heard.
    store.heardAt(() => Math.round(transport.position));
    store.takenBy((moves) => untrack(() => writing.take(moves)));
    // For the browser tests and the curious: the open desk by name.
    Object.assign(window, { isotaxis: desk });
    const unlisten = writing.follow();
    const stopDrawing = drawMeters(transport);
    return () => {
      unfollow();
      unwatch();
      unlisten();
      stopDrawing();
      transport.close();
    };
  });

  // What is being written ends where it stops.
  $effect(() => {
    if (desk && !desk.transport.playing) untrack(desk.writing.end);
  });

  /** What says who moves with whom. */
  const GROUPED: ReadonlySet<string> = new Set(['vcaMember', 'link', 'linkMember', 'settings']);
  const point = ({ target }: Event) => linking.point(pointedAt(target, selection.around));
  const holdAlone = (on: boolean) => {
    if (on === store.alone) return;
    store.holdAlone(on);
    linking.again();
  };
  /** A key with what is held, as a link group's shortcut names it: "Alt+1". */
  const namedKey = (event: KeyboardEvent) =>
    [event.ctrlKey && 'Ctrl', event.altKey && 'Alt', event.metaKey && 'Meta', event.shiftKey && 'Shift', keyOf(event)]
      .filter(Boolean)
      .join('+');

  const SAVING = { saved: 'Saved', saving: 'Saving…', offline: 'Not saved: the server does not answer. Trying again.' } as const;

  // What the page that led here had to say.
  onMount(() => {
    if (page.state.said) store.say(page.state.said);
    const handed = takeFiles(id);
    if (handed.length) void importer.add(handed);
  });

  let toast = $state('');
  $effect(() => {
    const { notice } = store;
    if (!notice) return;
    toast = notice.text;
    const timer = setTimeout(() => (toast = ''), 6000);
    return () => clearTimeout(timer);
  });

  const theme = () => {
    dark = turnTheme();
    redrawMeters();
  };
  $effect(() =>
    commands.add([
      { title: 'Play or stop', group: 'Playing', keys: 'Space', run: () => void desk?.transport.toggle() },
      { title: 'To the beginning', group: 'Playing', keys: 'Home', run: () => desk?.transport.locate(0) },
      { title: 'Undo', group: 'Session', keys: 'Ctrl+Z', run: () => void store.undo(), when: () => store.history.undo !== null },
      { title: 'Redo', group: 'Session', keys: 'Shift+Ctrl+Z', run: () => void store.redo(), when: () => store.history.redo !== null },
      { title: 'All sessions', group: 'Session', run: () => void goto('/') },
      { title: 'Export this session as a package', group: 'Session', run: () => location.assign(`/api/sessions/${id}/package`) },
      ...views.map(({ path, name }) => ({ title: `Show ${name}`, group: 'Views' as const, run: () => void goto(`/s/${id}/${path}`) })),
      { title: 'Show a kept set of rows', group: 'Views', keys: '1 – 9', run: () => void goto(`/s/${id}/roster`) },
      { title: dark ? 'Day colours' : 'Night colours', group: 'Views', run: theme },
      {
        title: store.settings.linksPaused ? 'Take up link groups' : 'Pause all link groups',
        group: 'Links',
        keys: 'l',
        run: pauseAll,
        when: () => store.links.length > 0
      },
      {
        title: 'Move one alone, while held',
        group: 'Links',
        keys: 'n',
        run: () => store.say('Hold n while you move it: what is linked stays where it is.')
      },
      { title: 'Commands', group: 'Views', keys: 'Ctrl+K', run: () => (sheet = 'palette') },
      { title: 'Shortcuts', group: 'Views', keys: '?', run: () => (sheet = 'shortcuts') }
    ])
  );
  /** A link group's own keys come before whatever else they mean. */
  const oncapture = (event: KeyboardEvent) => {
    const from = event.target as HTMLElement;
    if (event.key.length !== 1 || from.closest('input:not([type=range]), textarea, select, [role=dialog], [data-listening]')) return;
    const [link] = rowsBy(store.session, 'link', 'shortcut', namedKey(event));
    if (!link) return;
    event.preventDefault();
    event.stopPropagation();
    store.act([{ do: 'links.set', id: link.id, active: !link.active }]);
  };
  const pauseAll = () => store.act([{ do: 'links.pause', on: !store.settings.linksPaused }]);
  const recall = ({ key }: KeyboardEvent) => {
    const [set] = rowsBy(store.session, 'showing', 'number', Number(key));
    if (set) store.act([{ do: 'showings.recall', id: set.id }]);
    else store.say(`No set is kept under ${key}. Keep one in the Roster.`);
  };
  const playOrStop = (event: KeyboardEvent) => {
    void desk?.transport.toggle();
    (event.target as HTMLElement).blur();
  };
  const bound = onKeys(
    [
      { press: '$mod+k', run: () => (sheet = 'palette') },
      ...pressed('?').map((press) => ({ press, run: () => (sheet = 'shortcuts' as const) })),
      { press: '$mod+z', run: () => void store.undo() },
      { press: '$mod+Shift+z', run: () => void store.redo() },
      { press: '([1-9])', run: recall },
      { press: 'Shift+([1-9])', run: recall },
      { press: 'Space', run: playOrStop, when: () => desk !== null },
      { press: 'Home', run: () => desk?.transport.locate(0), when: () => desk !== null },
      { press: 'l', run: pauseAll, when: () => store.links.length > 0 }
    ],
    (event) => (event.target as HTMLElement).closest('input:not([type=range]), textarea, select, [role=dialog], audio') !== null
  );
  const onkeydown = (event: KeyboardEvent) => {
    // Held, not pressed: it moves one alone for as long as it is down.
    const typing = (event.target as HTMLElement).closest('input:not([type=range]), textarea, select, [role=dialog], audio');
    if (event.key === 'n' && !typing && !event.ctrlKey && !event.metaKey && !event.altKey) return holdAlone(true);
    bound(event);
  };
  const ondrop = (event: DragEvent) => {
    event.preventDefault();
    dropping = false;
    void importer.add([...(event.dataTransfer?.files ?? [])]);
  };
  const hasFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false;
</script>

<svelte:window
  {onkeydown}
  onkeydowncapture={oncapture}
  onkeyup={(event) => event.key.toLowerCase() === 'n' && holdAlone(false)}
  onblur={() => holdAlone(false)}
  onbeforeunload={(event) => store.saving !== 'saved' && event.preventDefault()}
/>

<div
  class="shell"
  role="presentation"
  ondragover={(event) => {
    if (!hasFiles(event)) return;
    event.preventDefault();
    dropping = true;
  }}
  onpointerover={point}
  onfocusin={point}
  onpointerleave={() => linking.point(null)}
  ondragleave={(event) => event.relatedTarget === null && (dropping = false)}
  {ondrop}
>
  <header>
    <a class="brand" href="/">Isotaxis</a>
    <SessionMenu {store} />
    <nav aria-label="Views">
      {#each views as view (view.path)}
        <a href="/s/{id}/{view.path}" aria-current={page.url.pathname.endsWith(view.path) ? 'page' : undefined}>{view.name}</a>
      {/each}
    </nav>
    <span class="grow"></span>
    {#if importer.running && !importer.open}<Button color="alternative" onclick={() => (importer.open = true)}>Importing…</Button>{/if}
    {#if store.alone}<span class="alone">moving alone</span>{/if}
    {#if store.settings.linksPaused && store.links.length}<Button
        color="alternative"
        class="font-semibold text-ochre!"
        data-hint="Take them up again (l)"
        onclick={pauseAll}>links paused</Button
      >{/if}
    {#if store.aside.length}<Button color="alternative" class="text-persimmon!" onclick={() => (sheet = 'aside')}
        >{store.aside.length} set aside…</Button
      >{/if}
    {#if desk?.transport.silent}<Button color="alternative" class="text-ochre!" onclick={() => (sheet = 'unplayed')}>No playback…</Button
      >{/if}
    <span class="saving {store.saving}" role="status"><span class="dot"></span>{SAVING[store.saving]}</span>
    <Button
      color="alternative"
      class="undo block max-w-[330px] overflow-hidden text-ellipsis"
      disabled={!store.history.undo}
      data-hint={store.history.undo ? `${store.history.undo.label}: undo it (Ctrl+Z)` : 'Nothing to undo'}
      onclick={() => void store.undo()}>{store.history.undo ? `Undo: ${store.history.undo.label}` : 'Nothing to undo'}</Button
    >
    <Button
      color="alternative"
      disabled={!store.history.redo}
      data-hint={store.history.redo ? `${store.history.redo.label}: redo it (Shift+Ctrl+Z)` : 'Nothing to redo'}
      onclick={() => void store.redo()}>Redo</Button
    >
    <Button
      color="alternative"
      class={icon}
      aria-label="Shortcuts"
      data-hint="Shortcuts (?); all commands: Ctrl+K"
      onclick={() => (sheet = 'shortcuts')}><Keyboard size={16} /></Button
    >
    <DayNight {dark} onturn={theme} />
  </header>
  <main>
    {#if desk}{@render children()}{/if}
  </main>
  {#if desk}
    <TransportBar {dark} />
    <ImportReport />
  {/if}
  {#if sheet === 'palette'}<Palette commands={commands.all} onclose={() => (sheet = null)} />{/if}
  {#if sheet === 'shortcuts'}<ShortcutSheet commands={commands.all} onclose={() => (sheet = null)} />{/if}
  {#if sheet === 'aside'}<AsideSheet {store} onclose={() => (sheet = null)} />{/if}
  {#if sheet === 'unplayed' && desk?.transport.silent}<Unplayed why={desk.transport.silent} onclose={() => (sheet = null)} />{/if}
  {#if store.ended}<EndedDialog {store} />{:else}<DemoPath {store} />{/if}
  {#if dropping}<div class="drop" aria-hidden="true"><span>Drop audio to import it as tracks</span></div>{/if}
  <Message text={toast} ondismiss={() => (toast = '')} />
</div>

<style>
  .shell {
    position: relative;
    display: grid;
    grid-template-rows: 46px minmax(0, 1fr) auto;
    height: 100vh;
  }
  main {
    min-height: 0;
    overflow: hidden;
  }
  header {
    display: flex;
    align-items: center;
    gap: 10px;
    padding: 0 14px;
    border-bottom: 1px solid var(--line);
  }
  .brand {
    font-size: 15px;
    font-weight: 700;
  }
  nav {
    display: flex;
    gap: 4px;
    margin-left: 8px;
  }
  nav a {
    padding: 5px 11px;
    border-radius: 6px;
    color: var(--muted);
    font-weight: 500;
  }
  nav a:hover {
    color: var(--ink);
  }
  nav a[aria-current] {
    background: var(--ink);
    color: var(--paper);
  }
  .grow {
    flex: 1;
  }
  .alone {
    color: var(--ochre);
    font-weight: 600;
    white-space: nowrap;
  }
  .saving {
    display: flex;
    align-items: center;
    gap: 7px;
    color: var(--muted);
    white-space: nowrap;
  }
  .dot {
    width: 8px;
    height: 8px;
    border-radius: 50%;
    background: var(--kelp);
  }
  .saving .dot {
    opacity: 0.5;
  }
  .saved .dot {
    opacity: 1;
  }
  .offline {
    color: var(--persimmon);
  }
  .offline .dot {
    background: var(--persimmon);
  }
  .wait {
    padding: 60px;
    color: var(--muted);
    text-align: center;
  }
  .drop {
    position: absolute;
    inset: 8px;
    z-index: 50;
    display: grid;
    place-items: center;
    border: 2px dashed var(--kelp);
    border-radius: 14px;
    background: color-mix(in oklch, var(--paper) 82%, transparent);
    font-size: 17px;
    font-weight: 600;
    pointer-events: none;
  }
</style>
