#!/usr/bin/env node
// npx isotaxis …: builds what is missing, then hands over to the command line proper.
import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const built = path.join(root, 'dist/threads/cli.js');
if (!existsSync(built)) execFileSync('node', ['scripts/setup.mjs', '--no-page'], { cwd: root, stdio: ['ignore', 2, 2] });
process.env.ISOTAXIS_ROOT ??= root;
const { main } = await import(pathToFileURL(built).href);
process.exitCode = await main(process.argv.slice(2), path.join(root, 'dist/kernel.wasm'));
