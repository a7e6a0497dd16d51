// Every command of the Ledger, with its key: the one list behind keys, palette and the sheet of shortcuts.
import { v4 as uuid } from 'uuid';
import { idsBy } from '$core/session/lookup';
import { processors } from '$core/processors/index';
import type { InsertType } from '$core/session/entities';
import type { Desk } from '$lib/state/desk';
import type { KeyedCommand } from '../rowKeys';
import type { LedgerActions } from './actions';
import type { Asked, Naming } from './asked';

/** What only the view itself can do. */
type Hands = {
  readonly importFiles: () => void;
  readonly pick: (what: 'route' | 'send' | 'find' | 'intoVca' | 'intoLink') => void;
  readonly name: (what: Naming) => void;
  readonly ask: (what: Asked) => void;
  readonly order: () => readonly string[];
  readonly folded: (id: string) => boolean;
  readonly fold: (id: string) => void;
  readonly stepTo: (by: number, extend: boolean) => void;
  readonly toggleSheet: () => void;
  readonly rename: () => void;
  readonly askRemoval: () => void;
};

export function ledgerCommands({ store, selection }: Desk, actions: LedgerActions, hands: Hands) {
  const { importFiles, pick, name, ask, order, folded, fold, stepTo, toggleSheet, rename, askRemoval } = hands;
  const ids = () => [...selection.ids];
  /** Moves the selection among its neighbours in the same branch: the keyboard's way of dragging rows. */
  const moveBy = (by: 1 | -1) => {
    const first = store.session.channel.get([...selection.ids][0] ?? '');
    if (!first) return;
    const siblings = store.channels
      .filter(({ outputId, kind }) => outputId === first.outputId && kind !== 'mix' && (kind === 'vca') === (first.kind === 'vca'))
      .toSorted((a, b) => a.position - b.position);
    const places = siblings.flatMap(({ id }, i) => (selection.has(id) ? [i] : []));
    const before = by < 0 ? siblings[Math.min(...places) - 1] : siblings[Math.max(...places) + 2];
    const last = Math.max(...places) === siblings.length - 1;
    if (places.length && (by > 0 ? !last : before))
      store.act([{ do: 'channels.move', ids: places.map((i) => siblings[i].id), before: before?.id ?? null }]);
  };

  const some = () => selection.ids.size > 0;
  const isKind = (...kinds: string[]) => kinds.includes(store.session.channel.get(selection.last ?? '')?.kind ?? '');
  const ofKind = (kind: string) => ids().filter((id) => store.session.channel.get(id)?.kind === kind);
  const hiddenColumns = () => [...idsBy(store.session, 'channel', 'columnHidden', true)];
  const addInsert = (type: InsertType) => {
    const channelId = selection.last;
    if (channelId) store.act([{ do: 'inserts.add', id: uuid(), channelId, type }]);
  };
  const list: readonly KeyedCommand[] = [
    { title: 'Import audio…', group: 'Session', run: () => importFiles() },
    { title: 'Go to a channel…', group: 'Moving about', keys: '/', key: '/', run: () => pick('find') },
    { title: 'New bus from selection', group: 'Routing', keys: 'b', key: 'b', run: () => name('bus') },
    { title: 'New return', group: 'Routing', run: () => name('return') },
    { title: 'New parallel return from selection', group: 'Routing', run: () => name('parallel'), when: some },
    { title: 'New cue…', group: 'Routing', run: () => ask({ kind: 'cue' }) },
    { title: 'New click for players', group: 'Routing', run: () => name('click') },
    { title: 'New key track', group: 'Routing', run: () => name('key') },
    { title: 'New VCA over selection…', group: 'Links', run: () => name('vca') },
    { title: 'Put selection into a VCA…', group: 'Links', run: () => pick('intoVca'), when: some },
    { title: 'New link group from selection…', group: 'Links', run: () => name('link'), when: some },
    { title: 'Put selection into a link group…', group: 'Links', run: () => pick('intoLink'), when: some },
    { title: 'New stage of the mix chain', group: 'Routing', run: () => name('stage') },
    { title: 'Insert a bus before the members of this one', group: 'Routing', run: () => name('insert'), when: () => isKind('bus', 'mix') },
    {
      title: 'Dissolve buses…',
      group: 'Routing',
      run: () => ask({ kind: 'dissolve', ids: ofKind('bus') }),
      when: () => ofKind('bus').length > 0
    },
    {
      title: 'Twin this return into buses…',
      group: 'Routing',
      run: () => ask({ kind: 'twin', id: selection.last! }),
      when: () => isKind('return')
    },
    {
      title: 'Merge returns',
      group: 'Routing',
      run: () => store.act([{ do: 'returns.merge', ids: ofKind('return') }]),
      when: () => ofKind('return').length > 1
    },
    {
      title: 'Take its sound as a track…',
      group: 'Routing',
      run: () => ask({ kind: 'take', ids: [...ofKind('bus'), ...ofKind('return')] }),
      when: () => ofKind('bus').length + ofKind('return').length > 0
    },
    { title: 'Drive this return…', group: 'Levels', run: () => ask({ kind: 'drive', id: selection.last! }), when: () => isKind('return') },
    { title: 'Duplicate', group: 'Selection', keys: 'd', key: 'd', run: () => actions.duplicate(ids(), {}), when: some },
    { title: 'Duplicate with all that goes in', group: 'Selection', run: () => actions.duplicate(ids(), { branch: true }), when: some },
    { title: 'Duplicate without sends', group: 'Selection', run: () => actions.duplicate(ids(), { sends: false }), when: some },
    { title: 'Pin to the top, or unpin', group: 'Selection', keys: 'g', key: 'g', run: () => actions.pin(ids()), when: some },
    {
      title: 'Clear solo, or recall the last',
      group: 'Levels',
      keys: 'Shift+S',
      key: 'S',
      run: () => store.act([{ do: idsBy(store.session, 'channel', 'solo', true).length ? 'solos.clear' : 'solos.recall' }])
    },
    { title: 'Show or hide the side sheet', group: 'Views', keys: 'v', key: 'v', run: toggleSheet },
    {
      title: 'Show hidden columns',
      group: 'Views',
      run: () => store.act([{ do: 'columns.hide', ids: hiddenColumns(), on: false }]),
      when: () => hiddenColumns().length > 0
    },
    { title: 'Route selection…', group: 'Routing', keys: 'r', key: 'r', run: () => pick('route'), when: some },
    { title: 'Send selection to…', group: 'Routing', keys: 'e', key: 'e', run: () => pick('send'), when: some },
    { title: 'Route nowhere', group: 'Routing', run: () => actions.route(ids(), null), when: some },
    { title: 'Mute', group: 'Levels', keys: 'm', key: 'm', run: () => actions.toggle('mute', ids()), when: some },
    { title: 'Solo', group: 'Levels', keys: 's', key: 's', run: () => actions.toggle('solo', ids()), when: some },
    { title: 'Solo-safe', group: 'Levels', keys: 'f', key: 'f', run: () => actions.toggle('soloSafe', ids()), when: some },
    { title: 'Faders to unity', group: 'Levels', keys: '0', key: '0', run: () => actions.setFaders(ids(), 0), when: some },
    { title: 'Faders to −∞', group: 'Levels', keys: '-', key: '-', run: () => actions.setFaders(ids(), -Infinity), when: some },
    { title: 'Centre pan', group: 'Levels', run: () => actions.pans(ids(), 0), when: some },
    {
      title: 'Turn polarity',
      group: 'Levels',
      run: () => store.act([{ do: 'polarities.set', ids: ids(), on: !store.session.channel.get(ids()[0])?.polarity }]),
      when: some
    },
    ...(Object.keys(processors) as InsertType[]).map((type): KeyedCommand => ({
      title: `Add ${processors[type].title}`,
      group: 'Inserts',
      run: () => addInsert(type),
      when: () => selection.last !== null
    })),
    { title: 'Row above', group: 'Moving about', keys: '↑', key: 'ArrowUp', run: () => stepTo(-1, false) },
    { title: 'Row below', group: 'Moving about', keys: '↓', key: 'ArrowDown', run: () => stepTo(1, false) },
    {
      title: 'Fold branch',
      group: 'Moving about',
      keys: '←',
      key: 'ArrowLeft',
      run: () => selection.last && !folded(selection.last) && fold(selection.last)
    },
    {
      title: 'Unfold branch',
      group: 'Moving about',
      keys: '→',
      key: 'ArrowRight',
      run: () => selection.last && folded(selection.last) && fold(selection.last)
    },
    { title: 'Move rows up', group: 'Selection', keys: 'Alt+↑', run: () => moveBy(-1), when: some },
    { title: 'Move rows down', group: 'Selection', keys: 'Alt+↓', run: () => moveBy(1), when: some },
    { title: 'Select all', group: 'Selection', keys: 'Ctrl+A', run: () => selection.set(order(), selection.last) },
    {
      title: 'Select this branch',
      group: 'Selection',
      run: () => selection.last && selection.set(actions.branch(selection.last), selection.last),
      when: some
    },
    {
      title: 'Invert selection',
      group: 'Selection',
      run: () =>
        selection.set(
          order().filter((id) => !selection.has(id)),
          selection.last
        )
    },
    { title: 'Clear selection', group: 'Selection', keys: 'Esc', key: 'Escape', run: () => selection.clear() },
    { title: 'Rename', group: 'Selection', keys: 'F2', key: 'F2', run: rename, when: some },
    { title: 'Remove', group: 'Selection', keys: 'Del', key: 'Delete', run: askRemoval, when: some }
  ];
  return { list, moveBy };
}
