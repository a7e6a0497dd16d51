// The command language: every way in which a session can be changed, by name.
import * as buses from './buses.ts';
import * as channels from './channels.ts';
import * as cues from './cues.ts';
import { channelsDuplicate } from './duplicate.ts';
import { tracksFill } from './fill.ts';
import * as inserts from './inserts.ts';
import * as keys from './keys.ts';
import * as levels from './levels.ts';
import { channelsOrder } from './order.ts';
import * as pairs from './pairs.ts';
import * as returns from './returns.ts';
import * as roster from './roster.ts';
import * as routing from './routing.ts';
import { settingsSet } from './settings.ts';
import { tracksAdd } from './tracks.ts';
import * as twins from './twins.ts';
import type { Definition } from './define.ts';

export const commands = {
  'tracks.add': tracksAdd,
  'buses.add': buses.busesAdd,
  'buses.insert': buses.busesInsert,
  'buses.dissolve': buses.busesDissolve,
  'chain.add': buses.chainAdd,
  'returns.add': returns.returnsAdd,
  'returns.parallel': returns.returnsParallel,
  'returns.drive': returns.returnsDrive,
  'returns.twin': twins.returnsTwin,
  'returns.merge': twins.returnsMerge,
  'columns.order': returns.columnsOrder,
  'columns.hide': returns.columnsHide,
  'cues.add': cues.cuesAdd,
  'cues.share': cues.cuesShare,
  'cues.unshare': cues.cuesUnshare,
  'clicks.add': cues.clicksAdd,
  'keys.add': keys.keysAdd,
  'patterns.set': keys.patternsSet,
  'channels.remove': channels.channelsRemove,
  'channels.duplicate': channelsDuplicate,
  'channels.rename': channels.channelsRename,
  'channels.colour': channels.channelsColour,
  'colours.set': channels.coloursSet,
  'channels.move': channels.channelsMove,
  'channels.order': channelsOrder,
  'channels.route': routing.channelsRoute,
  'sends.set': routing.sendsSet,
  'sends.tap': routing.sendsTap,
  'sends.remove': routing.sendsRemove,
  'faders.set': levels.fadersSet,
  'trims.set': levels.trimsSet,
  'polarities.set': levels.polaritiesSet,
  'pans.set': levels.pansSet,
  'widths.set': levels.widthsSet,
  'tracks.key': keys.tracksKey,
  'mutes.set': levels.mutesSet,
  'solos.set': levels.solosSet,
  'solos.clear': levels.solosClear,
  'solos.recall': levels.solosRecall,
  'safes.set': levels.safesSet,
  'hides.set': levels.hidesSet,
  'pins.set': levels.pinsSet,
  'rests.set': levels.restsSet,
  'roles.set': roster.rolesSet,
  'dividers.set': roster.dividersSet,
  'dividers.remove': roster.dividersRemove,
  'showings.save': roster.showingsSave,
  'showings.remove': roster.showingsRemove,
  'showings.recall': roster.showingsRecall,
  'batch.name': roster.batchName,
  'tracks.fill': tracksFill,
  'tracks.pair': pairs.tracksPair,
  'tracks.split': pairs.tracksSplit,
  'inserts.add': inserts.insertsAdd,
  'inserts.set': inserts.insertsSet,
  'inserts.bypass': inserts.insertsBypass,
  'inserts.key': inserts.insertsKey,
  'inserts.copy': inserts.insertsCopy,
  'inserts.move': inserts.insertsMove,
  'inserts.remove': inserts.insertsRemove,
  'settings.set': settingsSet
} as const;

export type CommandName = keyof typeof commands;
type ArgsOf<D> = D extends Definition<infer Args> ? Args : never;
/** Arguments with defaults may be left out by whoever writes the command. */
type Written<T> = { [K in keyof T as undefined extends T[K] ? never : K]?: T[K] } & T;

export type Command = {
  [N in CommandName]: { readonly do: N } & Partial<Written<ArgsOf<(typeof commands)[N]>>>;
}[CommandName];
