// A full disk: how it is told, and what is said of it.

export const DISK_FULL = 'The disk is full. Nothing was lost; make room and try again.';

/** Whether an error says that there is no room: Node's own, a thread's, or the database's. */
export const isDiskFull = (error: unknown): boolean =>
  error instanceof Error &&
  ((error as NodeJS.ErrnoException).code === 'ENOSPC' ||
    (error as { code?: string }).code === '53100' ||
    /ENOSPC|No space left|disk full/i.test(error.message));
