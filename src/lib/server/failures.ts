// What is said of a failure that no code foresaw: a full disk and a database that is away are told from a fault of ours.
import type { Refusal } from '$core/result';

export const DISK_FULL = 'The disk is full. Nothing was lost; make room and try again.';

/** The database cannot be reached, or is no longer ours: nothing was written, and trying again later is right. */
export class DatabaseAway extends Error {}

/** Carries a refusal out of the depths of a stream. */
export class Refused extends Error {
  constructor(readonly refusal: Refusal) {
    super(refusal.message);
  }
}

/** Whether an error says that there is no room: Node's own, a thread's, or the database's. */
export const isDiskFull = (error: unknown): boolean =>
  error instanceof Error &&
  ((error as NodeJS.ErrnoException).code === 'ENOSPC' ||
    (error as { code?: string }).code === '53100' ||
    /ENOSPC|No space left|disk full/i.test(error.message));

export function failureOf(error: unknown): Refusal {
  if (error instanceof Refused) return error.refusal;
  if (isDiskFull(error)) return { code: 'disk-full', message: DISK_FULL };
  if (error instanceof DatabaseAway) return { code: 'unavailable', message: error.message };
  return { code: 'server', message: 'Something went wrong here. Nothing was changed. Try again.' };
}
