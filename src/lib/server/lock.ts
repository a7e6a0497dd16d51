// One process owns a data directory. The lock is kept by a heartbeat (proper-lockfile), so it holds between containers that share a
// volume and know nothing of each other's processes. Where a process of the same machine and the same PID namespace held it and is
// gone, nobody has to wait for the heartbeat to grow old.
import { mkdirSync, readFileSync, readlinkSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import lockfile from 'proper-lockfile';

export class DirectoryInUse extends Error {}

/** A heartbeat older than this is that of a process that is gone. */
const STALE_MS = 15_000;
const BEAT_MS = 3000;

type Owner = { readonly pid: number; readonly started: string; readonly space: string };

/** Takes the lock or throws `DirectoryInUse`; gives how to give it back. `lost` hears if the directory went, or was taken over. */
export async function lockDirectory(directory: string, lost: (why: string) => void = () => {}): Promise<() => Promise<void>> {
  mkdirSync(directory, { recursive: true });
  const lock = path.join(directory, 'owner.held');
  const note = path.join(directory, 'owner.json');
  const options = {
    lockfilePath: lock,
    realpath: false,
    stale: STALE_MS,
    update: BEAT_MS,
    onCompromised: () => lost(`The data directory ${directory} was removed or taken over by another Isotaxis.`)
  };
  clearOfOld(path.join(directory, 'owner.lock'), directory);
  await clearOf(lock, note);
  const release = await lockfile.lock(directory, options).catch((error: NodeJS.ErrnoException) => {
    if (error.code !== 'ELOCKED') throw error;
    const owner = readOwner(note);
    const who = owner && owner.space === spaceOf() ? ` (process ${owner.pid})` : '';
    throw new DirectoryInUse(
      `Another Isotaxis${who} is using ${directory}. Stop it, or choose another directory with ISOTAXIS_DATA. After a crash elsewhere, wait ${STALE_MS / 1000} s.`
    );
  });
  writeFileSync(note, JSON.stringify({ pid: process.pid, started: startOf(process.pid), space: spaceOf() } satisfies Owner));
  return async () => {
    rmSync(note, { force: true });
    await release().catch((error: NodeJS.ErrnoException) => {
      // Lost already: there is nothing to give back.
      if (error.code !== 'ENOTACQUIRED' && error.code !== 'ERELEASED' && error.code !== 'ENOENT') throw error;
    });
  };
}

/** Takes away a lock whose owner can be seen to be gone. One process at a time looks: else the second would take away the first one's new lock. */
async function clearOf(lock: string, note: string): Promise<void> {
  const owner = readOwner(note);
  if (!owner || owner.space !== spaceOf() || (startOf(owner.pid) === owner.started && owner.pid !== process.pid)) return;
  const release = await lockfile.lock(path.dirname(lock), { lockfilePath: `${lock}.look`, realpath: false, retries: 20 });
  try {
    if (JSON.stringify(readOwner(note)) === JSON.stringify(owner)) {
      rmSync(note, { force: true });
      rmSync(lock, { recursive: true, force: true });
    }
  } finally {
    await release();
  }
}

/** The lock of versions before the heartbeat: a file with a process number, and a boot with the process's start. */
function clearOfOld(file: string, directory: string): void {
  const owner = readOwner(file);
  if (owner && owner.started.split(' ')[1] === startOf(owner.pid) && spaceOf().startsWith(owner.started.split(' ')[0]))
    throw new DirectoryInUse(`An older Isotaxis (process ${owner.pid}) is using ${directory}. Stop it first.`);
  rmSync(file, { force: true });
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

/** Where process numbers mean the same: this boot of this machine, and this PID namespace; empty where neither can be told. */
function spaceOf(): string {
  try {
    return `${readFileSync('/proc/sys/kernel/random/boot_id', 'utf8').trim()} ${readlinkSync('/proc/self/ns/pid')}`;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return '';
    throw error;
  }
}

/** When a process started, in clock ticks since boot; empty where there is no such process. */
function startOf(pid: number): string {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
    // A zombie has ended; only its parent has not asked yet.
    return fields[0] === 'Z' ? '' : fields[19];
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
