// Processes that tests and benches start: each ends when whoever started it does, however that ends; and a port that nobody uses.
import { spawn } from 'node:child_process';
import { createServer } from 'node:net';

/** What makes a program end with its parent: Linux kills it then. The process is the program's own. */
export const TIED = ['setpriv', '--pdeathsig', 'KILL', '--'];

/** As `spawn`: a program that ends with us. */
export const started = (program, args, options) => spawn(TIED[0], [...TIED.slice(1), program, ...args], options);

/** A free port on loopback. */
export const freePort = () =>
  new Promise((resolve, reject) => {
    const server = createServer().once('error', reject);
    server.listen(0, '127.0.0.1', () => {
      const { port } = server.address();
      server.close(() => resolve(port));
    });
  });
