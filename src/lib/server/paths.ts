// Where things are on disk: the data directory, and what the build made.
import path from 'node:path';

/** The directory with the session data; `ISOTAXIS_DATA`, else `data` beside the program. */
export const dataDirectory = (): string => path.resolve(process.env.ISOTAXIS_DATA ?? path.join(root(), 'data'));

const root = (): string => process.env.ISOTAXIS_ROOT ?? process.cwd();

/** A file that `npm run build` made for the server's threads. */
export const builtFile = (name: string): string => path.join(root(), 'dist', name);
