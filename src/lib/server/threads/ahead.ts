// The thread that renders a share of a print ahead of the one that writes it.
import { workerData } from 'node:worker_threads';
import { carryAhead, type AheadOrder } from '$files/prints/ahead';

carryAhead(workerData as AheadOrder);
