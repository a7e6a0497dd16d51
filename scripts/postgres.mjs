// A PostgreSQL server for the tests, from Debian's package, in a folder of its own; gone when they are done, however they end.
import { execFileSync, spawn } from 'node:child_process';
import { chmodSync, mkdtempSync, openSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { freePort, TIED } from './started.mjs';

const HOME = '/usr/lib/postgresql';

/** Makes and starts one; it can be stopped, as by a crash, and started again. */
export async function startPostgres() {
  const port = await freePort();
  const folder = mkdtempSync(path.join(tmpdir(), 'isotaxis-postgres-'));
  chmodSync(folder, 0o777);
  const [data, log] = ['data', 'log'].map((name) => path.join(folder, name));
  const version = readdirSync(HOME).sort().at(-1);
  // PostgreSQL refuses to run as root; the package made a user for it.
  const user = process.getuid() === 0 ? ['--reuid', 'postgres', '--regid', 'postgres', '--init-groups'] : [];
  const asked = (program, ...args) => [...TIED.slice(1, -1), ...user, '--', path.join(HOME, version, 'bin', program), ...args];
  const answers = () => {
    try {
      execFileSync(path.join(HOME, version, 'bin', 'pg_isready'), ['-q', '-h', '127.0.0.1', '-p', String(port)]);
      return true;
    } catch (error) {
      if (error.status === undefined) throw error;
      return false;
    }
  };
  let server = null;
  const start = async () => {
    const options = ['listen_addresses=127.0.0.1', `unix_socket_directories=${folder}`, 'fsync=off', `port=${port}`];
    const said = openSync(log, 'a');
    server = spawn(TIED[0], asked('postgres', '-D', data, ...options.flatMap((each) => ['-c', each])), { stdio: ['ignore', said, said] });
    while (!answers()) {
      if (server.exitCode !== null) throw new Error(`PostgreSQL does not start: ${readFileSync(log, 'utf8').slice(-2000)}`);
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
  };
  const stop = async () => {
    if (!server || server.exitCode !== null || server.signalCode !== null) return;
    const gone = new Promise((resolve) => server.once('exit', resolve));
    server.kill('SIGQUIT');
    await gone;
  };
  execFileSync(TIED[0], asked('initdb', '-D', data, '-U', 'isotaxis', '-A', 'trust', '-E', 'UTF8', '--locale=C.UTF-8', '--no-sync'), {
    stdio: ['ignore', 'ignore', 'inherit'],
    cwd: folder
  });
  await start();
  return {
    url: `postgres://isotaxis@127.0.0.1:${port}/postgres`,
    start,
    stop,
    remove: () => rmSync(folder, { recursive: true, force: true })
  };
}

export async function withPostgres(work) {
  const server = await startPostgres();
  try {
    await work(server.url);
  } finally {
    await server.stop();
    server.remove();
  }
}
