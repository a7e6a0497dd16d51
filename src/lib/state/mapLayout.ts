// The Map's layout, made beside the page; only the answer to the newest question counts.
import type { FlowMap } from '$core/map/flowMap';
import LayoutWorker from '../workers/layout.ts?worker';
import type { LayoutAnswer, LayoutOrder } from '../workers/layout';

/** `ask` may be called as often as one likes: questions within a moment are one. */
export function createMapLayout(onmap: (map: FlowMap) => void) {
  const worker = new LayoutWorker();
  let serial = 0;
  let pending: ReturnType<typeof setTimeout> | undefined;
  worker.onmessage = ({ data }: MessageEvent<LayoutAnswer>) => {
    if (data.serial === serial) onmap(data.map);
  };
  return {
    ask: (order: () => Omit<LayoutOrder, 'serial'>) => {
      clearTimeout(pending);
      pending = setTimeout(() => worker.postMessage({ ...order(), serial: ++serial } satisfies LayoutOrder), 20);
    },
    close: () => {
      clearTimeout(pending);
      worker.terminate();
    }
  };
}
