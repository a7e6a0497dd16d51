// The thread that renders one unit of a print job beside others.
import { parentPort, workerData } from 'node:worker_threads';
import { decodeSession, type SessionDocument } from '$core/session/tables';
import type { UnitMessage } from '$files/prints/job';
import { renderUnit, type UnitOrder } from '$files/prints/unit';

const { document, ...unit } = workerData as Omit<UnitOrder, 'session'> & { readonly document: SessionDocument };
const say = (message: UnitMessage) => parentPort!.postMessage(message);

const result = await renderUnit({ ...unit, session: decodeSession(document) }, (share) => say({ kind: 'progress', share }));
say({ kind: 'done', result });
