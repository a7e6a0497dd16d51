// A PostgreSQL server for the tests, from Debian's package, in a folder of its own; gone when they are done.
import { execFileSync } from 'node:child_process';
import { chmodSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';

const HOME = '/usr/lib/postgresql';

/** Makes and starts one; it can be stopped, as by a crash, and started again. */
export function startPostgres(port) {
  const version = readdirSync(HOME).sort().at(-1);
  const folder = mkdtempSync(path.join(tmpdir(), 'isotaxis-postgres-'));
  // PostgreSQL refuses to run as root; the package made a user for it.
  const root = process.getuid() === 0;
  const run = (program, ...args) => {
    const command = [path.join(HOME, version, 'bin', program), ...args];
    execFileSync(root ? 'runuser' : command[0], root ? ['-u', 'postgres', '--', ...command] : command.slice(1), {
      stdio: ['ignore', 'ignore', 'inherit'],
      cwd: folder
    });
  };
  chmodSync(folder, 0o777);
  const data = path.join(folder, 'data');
  const log = path.join(folder, 'log');
  const options = `-c listen_addresses=127.0.0.1 -c unix_socket_directories=${folder} -c fsync=off -p ${port}`;
  const start = () => run('pg_ctl', '-D', data, '-w', '-l', log, '-o', options, 'start');
  const stop = () => run('pg_ctl', '-D', data, '-m', 'immediate', '-w', 'stop');
  run('initdb', '-D', data, '-U', 'isotaxis', '-A', 'trust', '-E', 'UTF8', '--locale=C.UTF-8', '--no-sync');
  start();
  return {
    url: `postgres://isotaxis@127.0.0.1:${port}/postgres`,
    start,
    stop,
    remove: () => rmSync(folder, { recursive: true, force: true })
  };
}

export async function withPostgres(work) {
  const server = startPostgres(5499);
  try {
    await work(server.url);
  } finally {
    server.stop();
    server.remove();
  }
}
