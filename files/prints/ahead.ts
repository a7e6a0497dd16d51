// A unit on two cores: another thread renders a share of the plan ahead of this one. Where it is cut is measured first.
import { readFileSync } from 'node:fs';
import { Worker } from 'node:worker_threads';
import type { Pcm } from '$core/engine/engine';
import { exchangeOver, shareRing, type Share } from '$core/engine/share';
import { kernelModule, type KernelModule } from '$core/kernel/kernel';
import { cutOf } from '$core/prints/cut';
import { passesOf, type Pass } from '$core/prints/passes';
import { costsOf } from '$core/prints/measure';
import { crossingOf, renderAhead, spanOf } from '$core/prints/render';
import { settingsOf } from '$core/session/entities';
import { decodeSession, encodeSession, type SessionDocument } from '$core/session/tables';
import { filePcm } from './recordings';
import type { UnitOrder } from './unit';

/** What is shorter is rendered before another thread has started, in seconds. */
const SHORTEST = 10;
/** Milliseconds a period that each file takes to be encoded and written. */
const FILE_MS = 0.002;

export type Ahead = { readonly share: Share; readonly end: () => void };
/** What the other thread is given. */
export type AheadOrder = Omit<UnitOrder, 'session'> & { readonly document: SessionDocument; readonly share: Share };

/** Starts it, or null where one thread alone is as fast. */
export function beginAhead(unit: UnitOrder, module: KernelModule, pass: Pass, pcm: Pcm): Ahead | null {
  const { session, ahead, ...rest } = unit;
  const span = spanOf(pass, unit.order, unit.range);
  if (ahead === null || span.to - span.start < SHORTEST * settingsOf(session).rate) return null;
  const costs = costsOf(module, pass, pcm, span, () => performance.now());
  const cut = cutOf(pass, { ...costs, besides: costs.besides + pass.outlets.length * FILE_MS });
  if (!cut) return null;
  const ring = shareRing(crossingOf(module, pass, cut.first));
  const share: Share = { part: 1, first: cut.first, ring };
  const order: AheadOrder = { ...rest, ahead, document: encodeSession(session), share };
  const worker = new Worker(ahead, { workerData: order });
  // What it fails of it says in the ring, which is being waited at; this keeps it from ending the process.
  worker.on('error', () => exchangeOver(ring).stop(true));
  return {
    share,
    end: () => {
      exchangeOver(ring).stop();
      void worker.terminate();
    }
  };
}

/** In the other thread: renders until no more is wanted. */
export function carryAhead({ document, share, ...unit }: AheadOrder): void {
  const pass = passesOf(decodeSession(document), unit.files)[unit.pass];
  const pcm = filePcm(unit.recordings);
  try {
    renderAhead(kernelModule(readFileSync(unit.kernel)), pass, pcm.read, spanOf(pass, unit.order, unit.range), share);
  } catch (error) {
    exchangeOver(share.ring!).stop(true);
    throw error;
  } finally {
    pcm.close();
  }
}
