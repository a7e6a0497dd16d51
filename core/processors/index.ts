// Every processor, a line each. What the rest of the product knows of one, it knows from here.
import type { Channel, Insert } from '../session/entities.ts';
import { newRow } from '../session/tables.ts';
import { comp } from './comp/control.ts';
import { delay } from './delay/control.ts';
import { eq } from './eq/control.ts';
import { limiter } from './limiter/control.ts';
import { outside } from './outside/control.ts';
import type { Processor } from './processor.ts';
import { reverb } from './reverb/control.ts';
import { valuesBy, type ParamSpec, type Params } from './spec.ts';
import { trim } from './trim/control.ts';

/** In the order in which menus offer them. */
const LIST: readonly Processor[] = [eq, comp, limiter, trim, delay, reverb, outside];

/** By type. Types from outside are asked for with `Object.hasOwn` first. */
export const processors: Readonly<Record<string, Processor>> = Object.fromEntries(LIST.map((each) => [each.type, each]));
export const INSERT_TYPES: readonly string[] = LIST.map(({ type }) => type);

export const specsOf = (type: string): ReadonlyMap<string, ParamSpec> => processors[type].specs;
/** Every parameter's value: what is set, else its default. */
export const valuesOf = (type: string, params: Params): Record<string, number> => valuesBy(specsOf(type).values(), params);

/** Parameters of any processor that say how late it is. */
export const LATENCY_PARAMS: readonly string[] = LIST.flatMap(({ specs }) =>
  [...specs.values()].filter(({ latency }) => latency).map(({ id }) => id)
);

/** An insert as it begins: with what its processor begins with on a channel that is no return. */
export const newInsert = (id: string, channel: Channel, type: string, position: number): Insert =>
  newRow('insert', {
    id,
    channelId: channel.id,
    position,
    type,
    params: channel.kind === 'return' ? {} : (processors[type].onChannel ?? {})
  });
