// The processors by type: titles, parameters and what they need; read by commands, engine and page.
import type { InsertType } from '../session/entities.ts';
import { compSpecs } from './comp.ts';
import { delaySpecs } from './delay.ts';
import { eqSpecs } from './eq.ts';
import { limiterSpecs } from './limiter.ts';
import { outsideSpecs } from './outside.ts';
import { reverbSpecs } from './reverb.ts';
import { trimSpecs } from './trim.ts';
import type { ParamSpec } from './spec.ts';

export type ProcessorInfo = {
  /** As it stands inside a sentence. */
  readonly title: string;
  readonly specs: ReadonlyMap<string, ParamSpec>;
  /** Whether it makes two sides of one and so needs a stereo channel. */
  readonly stereo: boolean;
  /** Whether it has a key input. */
  readonly keyed: boolean;
};

const info = (title: string, specs: readonly ParamSpec[], { stereo = false, keyed = false } = {}): ProcessorInfo => ({
  title,
  specs: new Map(specs.map((spec) => [spec.id, spec])),
  stereo,
  keyed
});

export const processors: Readonly<Record<InsertType, ProcessorInfo>> = {
  eq: info('equaliser', eqSpecs),
  comp: info('compressor', compSpecs, { keyed: true }),
  limiter: info('limiter', limiterSpecs),
  trim: info('trim', trimSpecs),
  delay: info('delay', delaySpecs, { stereo: true }),
  reverb: info('reverb', reverbSpecs, { stereo: true }),
  outside: info('outside device', outsideSpecs)
};

export const INSERT_TYPES = Object.keys(processors) as InsertType[];

export const specsOf = (type: InsertType): ReadonlyMap<string, ParamSpec> => processors[type].specs;

/** Every parameter's value: what is set, else its value at birth. */
export const valuesOf = (type: InsertType, params: Readonly<Record<string, number>>): Record<string, number> =>
  Object.fromEntries([...specsOf(type).values()].map((spec) => [spec.id, params[spec.id] ?? spec.birth]));
