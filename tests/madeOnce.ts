// Folders that take longer to make than most tests: made once, by whichever process is the quickest, and shared by all.
import { existsSync, mkdtempSync, renameSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';

/** The folder called so, made by `make` where it is not there yet; `name` says of what it was made. */
export async function madeOnce(name: string, make: (folder: string) => Promise<void>): Promise<string> {
  const home = path.join(tmpdir(), `isotaxis-made-${name}`);
  if (existsSync(home)) return home;
  const made = mkdtempSync(path.join(tmpdir(), 'isotaxis-making-'));
  await make(made);
  try {
    renameSync(made, home);
  } catch (error) {
    // Another process was quicker.
    if (!existsSync(home)) throw error;
    rmSync(made, { recursive: true });
  }
  return home;
}
