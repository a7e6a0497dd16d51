// One process owns a data directory. The lock names its owner by process id and start time, so that a lock left by a
// crash is told from one that is held, even where the id was given to another process since.
import { closeSync, fsyncSync, mkdirSync, openSync, readFileSync, rmSync, writeSync } from 'node:fs';
import path from 'node:path';

type Owner = { readonly pid: number; readonly started: string };

export class DirectoryInUse extends Error {}

/** Takes the lock or throws `DirectoryInUse`; returns how to give it back. */
export function lockDirectory(directory: string): () => void {
  mkdirSync(directory, { recursive: true });
  const file = path.join(directory, 'owner.lock');
  for (let attempt = 0; attempt < 3; attempt++) {
    try {
      const handle = openSync(file, 'wx');
      writeSync(handle, JSON.stringify({ pid: process.pid, started: startOf(process.pid) }));
      fsyncSync(handle);
      closeSync(handle);
      return () => rmSync(file, { force: true });
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
    }
    const owner = readOwner(file);
    if (owner && startOf(owner.pid) === owner.started && owner.pid !== process.pid)
      throw new DirectoryInUse(
        `Another Isotaxis (process ${owner.pid}) is using ${directory}. Stop it, or choose another directory with ISOTAXIS_DATA.`
      );
    rmSync(file, { force: true });
  }
  throw new DirectoryInUse(`The lock ${file} cannot be taken. Remove it if no other Isotaxis is running.`);
}

function readOwner(file: string): Owner | null {
  try {
    return JSON.parse(readFileSync(file, 'utf8')) as Owner;
  } catch (error) {
    // Unreadable: a crash between creating and writing it.
    if (error instanceof SyntaxError || (error as NodeJS.ErrnoException).code === 'ENOENT') return null;
    throw error;
  }
}

/** When a process started, in clock ticks since boot with the boot's id; empty where there is no such process. */
function startOf(pid: number): string {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    const boot = readFileSync('/proc/sys/kernel/random/boot_id', 'utf8').trim();
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
    // A zombie has ended; only its parent has not asked yet.
    return fields[0] === 'Z' ? '' : `${boot} ${fields[19]}`;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT' || (error as NodeJS.ErrnoException).code === 'ESRCH')
      return isAlive(pid) ? 'alive' : '';
    throw error;
  }
}

/** For systems without /proc. */
function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}
