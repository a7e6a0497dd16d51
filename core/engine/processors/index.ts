// Every processor by its type.
import type { InsertType } from '../../session/entities.ts';
import { compProcessor } from './comp.ts';
import { delayProcessor } from './delay.ts';
import { eqProcessor } from './eq.ts';
import { limiterProcessor } from './limiter.ts';
import { outsideProcessor } from './outside.ts';
import type { Processor } from './processor.ts';
import { reverbProcessor } from './reverb.ts';
import { trimProcessor } from './trim.ts';

export const processorOf: Readonly<Record<InsertType, Processor>> = {
  eq: eqProcessor,
  comp: compProcessor,
  limiter: limiterProcessor,
  trim: trimProcessor,
  delay: delayProcessor,
  reverb: reverbProcessor,
  outside: outsideProcessor
};
