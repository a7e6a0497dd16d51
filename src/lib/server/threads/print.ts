// The print thread: carries out a job on a frozen session and reports how far it is.
import { parentPort, workerData } from 'node:worker_threads';
import { decodeSession, type SessionDocument } from '$core/session/tables';
import { printJob, type JobOrder, type Printed } from '$files/prints/job';

export type PrintJob = Omit<JobOrder, 'session'> & { readonly document: SessionDocument };
export type PrintReport =
  | { readonly kind: 'progress'; readonly share: number }
  | { readonly kind: 'done'; readonly printed: Printed }
  | { readonly kind: 'failed'; readonly message: string };

const { document, ...job } = workerData as PrintJob;
const report = (message: PrintReport) => parentPort!.postMessage(message);

const printed = await printJob({ ...job, session: decodeSession(document) }, (share) => report({ kind: 'progress', share }));
if (printed.ok) report({ kind: 'done', printed: printed.value });
else report({ kind: 'failed', message: printed.error.message });
