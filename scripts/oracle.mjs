// npm run oracle [-- COUNT]: the rule of solo against its independent oracle on so many random graphs, 100,000 where none is said.
import { execFileSync } from 'node:child_process';

const count = process.argv[2] ?? '100000';
execFileSync('npx', ['--no-install', 'vitest', 'run', 'core/routing/solo.test.ts'], {
  stdio: 'inherit',
  env: { ...process.env, SOLO_GRAPHS: count }
});
