// The mix of a session as it would be printed, block by block.
import type { Pcm } from '../../core/engine/engine.ts';
import type { KernelModule } from '../../core/kernel/kernel.ts';
import { plannedFiles, readOrder } from '../../core/prints/order.ts';
import { passesOf } from '../../core/prints/passes.ts';
import { renderPass, spanOf } from '../../core/prints/render.ts';
import type { Session } from '../../core/session/entities.ts';

export function* renderMix(module: KernelModule, session: Session, pcm: Pcm, block = 4096) {
  const order = readOrder({});
  if (!order.ok) throw new Error(order.error.message);
  const files = plannedFiles(session, order.value);
  if (!files.ok) throw new Error(files.error.message);
  const [pass] = passesOf(session, files.value);
  for (const { sides } of renderPass(module, pass, pcm, spanOf(pass, order.value, null), 'decay', block))
    yield { left: sides[0][0], right: sides[0][1] };
}
