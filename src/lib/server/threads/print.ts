// The print thread: renders a frozen session to a WAV file and reports how far it is.
import { parentPort, workerData } from 'node:worker_threads';
import { decodeSession, type SessionDocument } from '$core/session/tables';
import { printMix, type PrintOrder } from '$files/print';

export type PrintJob = Omit<PrintOrder, 'session'> & { readonly document: SessionDocument };
export type PrintReport =
  | { readonly kind: 'progress'; readonly share: number }
  | { readonly kind: 'done'; readonly frames: number; readonly peak: number }
  | { readonly kind: 'failed'; readonly message: string };

const { document, ...order } = workerData as PrintJob;
const report = (message: PrintReport) => parentPort!.postMessage(message);

const printed = printMix({ ...order, session: decodeSession(document) }, (share) => report({ kind: 'progress', share }));
if (printed.ok) report({ kind: 'done', ...printed.value });
else report({ kind: 'failed', message: printed.error.message });
