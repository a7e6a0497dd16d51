// The thread that reads files for their SHA-256: what is on disk is asked, not what was once known of it.
import { hashOf } from '$files/intake';

/** Lower-case hex; null where there is no such file, or it cannot be read. */
export default async (file: string): Promise<string | null> => {
  try {
    return await hashOf(file);
  } catch (error) {
    if (['ENOENT', 'ENOTDIR', 'EISDIR', 'EACCES', 'EIO'].includes((error as NodeJS.ErrnoException).code ?? '')) return null;
    throw error;
  }
};
