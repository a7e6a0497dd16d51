<!-- The Ledger's typeahead lists: where to route or send, what a new thing is called, which row to go to. -->
<script lang="ts" module>
  import type { Naming } from './asked';
  export type Picking =
    | { readonly kind: 'route' | 'send' | 'find' | 'intoVca' | 'intoLink' }
    | { readonly kind: 'copyInsert'; readonly insert?: string }
    | { readonly kind: 'name'; readonly what: Naming };
</script>

<script lang="ts">
  import { v4 as uuid } from 'uuid';
  import { inOrder } from '$core/session/select';
  import { pairName } from '$core/routing/trace';
  import Picker, { type Choice } from '$lib/ui/Picker.svelte';
  import { family } from '$lib/ui/colours';
  import { useDesk } from '$lib/state/desk';
  import { attributeWords, membersOf } from '../linkWords';
  import type { LedgerActions } from './actions';

  let {
    picking,
    actions,
    onclose,
    onfind
  }: { picking: Picking; actions: LedgerActions; onclose: () => void; onfind: (id: string) => void } = $props();
  const { store, selection } = useDesk();
  const ids = () => [...selection.ids];
  const who = () => (ids().length === 1 ? store.channel(ids()[0])?.name : `${ids().length} channels`);

  /** Where a channel stands, from the outside in: "return in BRASS in MIX". */
  const placeOf = (id: string): string => {
    const channel = store.session.channel.get(id)!;
    const names: string[] = [];
    for (let at = channel.outputId; at && names.length < 4; at = store.session.channel.get(at)?.outputId ?? null)
      names.push(store.session.channel.get(at)!.name);
    const kind = channel.kind === 'mix' ? 'mix bus' : channel.kind === 'vca' ? 'VCA' : channel.kind;
    return [kind, ...names].join(' in ');
  };
  const choices = (kinds: readonly string[], all = false): Choice[] =>
    inOrder(store.session)
      .filter(({ kind, id }) => (kinds.length === 0 || kinds.includes(kind)) && (all || !selection.has(id)))
      .map(({ id, name, colour }) => ({ id, name, detail: placeOf(id), colour: family(colour) }));
  const outputs = (): Choice[] =>
    Array.from({ length: store.settings.interfaceOutputs / 2 }, (_, pair) => ({
      id: `#${pair}`,
      name: pairName(pair),
      detail: `interface ${store.settings.interfaceName}`
    }));
  const NOWHERE = 'nowhere';

  const SAID: Record<Naming, { title: () => string; what: string; run: (name: string) => void }> = {
    bus: {
      title: () => (ids().length ? `New bus from ${ids().length} selected` : 'New bus'),
      what: 'bus',
      run: (name) => actions.newBus(name, ids())
    },
    return: {
      title: () => 'New return',
      what: 'return',
      run: (name) => {
        const id = actions.newReturn(name, []);
        selection.set([id], id);
      }
    },
    insert: {
      title: () => `New bus between ${who()} and its members`,
      what: 'bus',
      run: (name) => actions.insertBus(name, selection.last!, [])
    },
    stage: { title: () => 'New stage at the end of the mix chain', what: 'stage', run: (name) => actions.newStage(name) },
    parallel: { title: () => `Parallel return from ${who()}`, what: 'parallel return', run: (name) => actions.parallel(name, ids()) },
    key: { title: () => 'New key track: heard by key inputs only', what: 'key track', run: (name) => actions.newKey(name) },
    vca: {
      title: () => (ids().length ? `New VCA over ${who()}` : 'New VCA'),
      what: 'VCA',
      run: (name) => actions.newVca(name, ids())
    },
    link: { title: () => `New link group from ${who()}`, what: 'link group', run: (name) => actions.newLink(name, ids()) },
    click: { title: () => 'New click: heard in every cue, never in the mix', what: 'click', run: (name) => actions.newClick(name) }
  };
  const route = (id: string) => {
    if (id === NOWHERE) actions.route(ids(), null);
    else if (id.startsWith('#')) actions.routeOut(ids(), Number(id.slice(1)));
    else actions.route(ids(), id);
  };
  /** A channel is gone to; of a link group the members are selected. */
  const find = (id: string) => {
    if (!id.startsWith('link ')) return onfind(id);
    const members = membersOf(store.session, id.slice('link '.length));
    selection.set(members, members[0] ?? null);
  };
  const closing =
    <T extends unknown[]>(run: (...given: T) => void) =>
    (...given: T) => {
      // First what was asked for: once this is closed, there is nothing left to ask it of.
      run(...given);
      onclose();
    };
</script>

{#if picking.kind === 'route'}
  <Picker
    title="Route {who()} to"
    choices={[...choices(['mix', 'bus', 'return']), { id: NOWHERE, name: 'Nowhere', detail: 'no output' }, ...outputs()]}
    makes={['bus', 'return']}
    onpick={closing(route)}
    onmake={closing((what: string, name: string) => {
      if (what === 'bus') return actions.newBus(name, ids());
      const moving = ids();
      actions.route(moving, actions.newReturn(name, []));
    })}
    {onclose}
  />
{:else if picking.kind === 'send'}
  <Picker
    title="Send {who()} to"
    choices={choices(['return', 'bus', 'cue', 'mix'])}
    makes={['return']}
    onpick={closing((id: string) => actions.sendTo(ids(), id))}
    onmake={closing((_: string, name: string) => void actions.newReturn(name, ids()))}
    {onclose}
  />
{:else if picking.kind === 'intoVca'}
  <Picker
    title="Put {who()} into VCA"
    choices={choices(['vca'])}
    makes={['VCA']}
    onpick={closing((id: string) => actions.intoVca(id, ids()))}
    onmake={closing((_: string, name: string) => actions.newVca(name, ids()))}
    {onclose}
  />
{:else if picking.kind === 'intoLink'}
  <Picker
    title="Put {who()} into link group"
    choices={store.links.map(({ id, name, badge, attributes }) => ({ id, name, detail: `${badge}: ${attributeWords(attributes)}` }))}
    makes={['link group']}
    onpick={closing((id: string) => actions.intoLink(id, ids()))}
    onmake={closing((_: string, name: string) => actions.newLink(name, ids()))}
    {onclose}
  />
{:else if picking.kind === 'find'}
  <Picker
    title="Go to"
    choices={[
      ...choices([], true),
      ...store.links.map(({ id, name, badge }) => ({ id: `link ${id}`, name, detail: `link group ${badge}: selects its members` }))
    ]}
    makes={[]}
    none="No channel and no link group of that name."
    onpick={closing(find)}
    onmake={() => undefined}
    {onclose}
  />
{:else if picking.kind === 'copyInsert'}
  {@const insert = picking.insert}
  <Picker
    title="Copy this insert, with its key, to"
    choices={[
      ...(ids().length > 1 ? [{ id: 'selection', name: `${ids().length} selected channels`, detail: '' }] : []),
      ...choices(['track', 'bus', 'return', 'mix'])
    ]}
    makes={[]}
    onpick={closing((id: string) => {
      const own = store.session.insert.get(insert ?? '')?.channelId;
      const to = id === 'selection' ? ids().filter((one) => one !== own) : [id];
      store.act([{ do: 'inserts.copy', id: insert, to, as: uuid() }]);
    })}
    onmake={() => undefined}
    {onclose}
  />
{:else if picking.kind === 'name'}
  {@const { title, what, run } = SAID[picking.what]}
  <Picker
    title={title()}
    choices={[]}
    makes={[what]}
    none="Type its name."
    onpick={() => undefined}
    onmake={closing((_: string, name: string) => run(name))}
    {onclose}
  />
{/if}
