// The command language: every way in which a session can be changed, by name.
import * as channels from './channels.ts';
import * as inserts from './inserts.ts';
import * as levels from './levels.ts';
import * as routing from './routing.ts';
import { settingsSet } from './settings.ts';
import type { Definition } from './define.ts';

export const commands = {
  'tracks.add': channels.tracksAdd,
  'buses.add': channels.busesAdd,
  'returns.add': channels.returnsAdd,
  'channels.remove': channels.channelsRemove,
  'channels.rename': channels.channelsRename,
  'channels.colour': channels.channelsColour,
  'channels.move': channels.channelsMove,
  'channels.route': routing.channelsRoute,
  'sends.set': routing.sendsSet,
  'sends.remove': routing.sendsRemove,
  'faders.set': levels.fadersSet,
  'trims.set': levels.trimsSet,
  'polarities.set': levels.polaritiesSet,
  'pans.set': levels.pansSet,
  'mutes.set': levels.mutesSet,
  'solos.set': levels.solosSet,
  'safes.set': levels.safesSet,
  'inserts.add': inserts.insertsAdd,
  'inserts.set': inserts.insertsSet,
  'inserts.bypass': inserts.insertsBypass,
  'inserts.key': inserts.insertsKey,
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
