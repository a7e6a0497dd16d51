// Writes docs/commands.md from the docstrings of the commands: npm run commands, after a change of them.
import { writeFileSync } from 'node:fs';
import { build } from 'vite';

await build({
  configFile: false,
  logLevel: 'error',
  build: {
    ssr: 'tests/oracle/commandsPage.ts',
    outDir: 'dist/commands',
    copyPublicDir: false,
    rollupOptions: { output: { entryFileNames: 'page.js' } }
  }
});
const { commandsPage } = await import(new URL('../dist/commands/page.js', import.meta.url).href);
writeFileSync('docs/commands.md', commandsPage());
