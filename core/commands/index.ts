// The command language: every way in which a session can be changed. A command carries its own name: what a file of this folder
// exports is registered by the file's line here, and lint misses the line of a file that has none.
import * as buses from './buses.ts';
import * as channels from './channels.ts';
import * as clipMoves from './clipMoves.ts';
import * as clips from './clips.ts';
import * as clipValues from './clipValues.ts';
import * as cues from './cues.ts';
import * as duplicate from './duplicate.ts';
import * as fill from './fill.ts';
import * as inserts from './inserts.ts';
import * as keys from './keys.ts';
import * as lanes from './lanes.ts';
import * as levels from './levels.ts';
import * as links from './links.ts';
import * as moves from './moves.ts';
import * as order from './order.ts';
import * as pairs from './pairs.ts';
import * as places from './places.ts';
import * as points from './points.ts';
import * as returns from './returns.ts';
import * as roster from './roster.ts';
import * as routing from './routing.ts';
import * as settings from './settings.ts';
import * as stems from './stems.ts';
import * as take from './take.ts';
import * as tracks from './tracks.ts';
import * as twins from './twins.ts';
import * as vcas from './vcas.ts';
import * as versions from './versions.ts';
import type { Definition } from './define.ts';

const modules = [
  ...[tracks, buses, returns, twins, cues, keys, channels, duplicate, order, routing, levels],
  ...[roster, fill, pairs, inserts, moves, settings],
  ...[vcas, links, stems, versions, take],
  ...[clips, clipMoves, clipValues, places],
  ...[lanes, points]
];

type Exports<M> = M extends unknown ? M[keyof M] : never;
type Defined = Extract<Exports<(typeof modules)[number]>, { readonly name: string; readonly schema: unknown }>;

const isDefinition = (exported: unknown): exported is Defined =>
  typeof exported === 'object' && exported !== null && 'name' in exported && 'schema' in exported && 'plan' in exported;

/** Every command by its name. */
export const commands = Object.fromEntries(
  modules.flatMap((module) => Object.values(module as object).filter(isDefinition)).map((definition) => [definition.name, definition])
) as unknown as { readonly [D in Defined as D['name']]: D };

export type CommandName = keyof typeof commands;
type ArgsOf<D> = D extends Definition<string, infer Args> ? Args : never;
/** Arguments with defaults may be left out by whoever writes the command. */
type Written<T> = { [K in keyof T as undefined extends T[K] ? never : K]?: T[K] } & T;

export type Command = {
  /** `alone`: whatever is linked to what it touches stays where it is. */
  [N in CommandName]: { readonly do: N; readonly alone?: boolean } & Partial<Written<ArgsOf<(typeof commands)[N]>>>;
}[CommandName];
