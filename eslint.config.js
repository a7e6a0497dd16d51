// Lint: the usual rules, and the arrows between folders, which run one way.
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';
import svelteConfig from './svelte.config.js';

/** Folders that each folder may import from, besides itself. What is not listed is refused. */
const ARROWS = {
  'core/session': [],
  'core/kernel': [],
  'core/processors': ['core/session', 'core/kernel'],
  'core/routing': ['core/session', 'core/processors', 'core/lanes'],
  'core/links': ['core/session'],
  'core/lanes': ['core/session', 'core/processors'],
  'core/clips': ['core/session', 'core/links'],
  'core/map': ['core/session', 'core/routing', 'core/lanes'],
  'core/commands': ['core/session', 'core/routing', 'core/processors', 'core/links', 'core/clips', 'core/lanes'],
  'core/engine': ['core/session', 'core/routing', 'core/processors', 'core/kernel', 'core/lanes'],
  'core/stems': ['core/session', 'core/routing', 'core/processors', 'core/commands', 'core/lanes'],
  'core/prints': ['core/session', 'core/routing', 'core/processors', 'core/stems', 'core/engine', 'core/kernel', 'core/lanes'],
  'core/measure': [],
  'core/formats': ['core/session', 'core/processors', 'core/routing', 'core/map', 'core/clips', 'core/lanes'],
  'core/sync': ['core/session', 'core/commands', 'core/lanes'],
  'core/organise': ['core/session', 'core/commands', 'core/processors', 'core/formats', 'core/routing'],
  demo: ['core/session', 'core/commands'],
  files: ['core'],
  cli: ['core', 'files', 'src/lib/server'],
  'src/lib/server': ['core', 'files', 'demo'],
  'src/lib/workers': ['core'],
  'src/lib/state': ['core', 'src/lib/workers'],
  'src/lib/ui': ['core', 'src/lib/state'],
  'src/lib/views': ['core', 'src/lib/state', 'src/lib/ui']
};
const FOLDERS = [...Object.keys(ARROWS), 'src/routes'];

/** An import of `folder`, however it is written: by alias or by path. */
const waysTo = (folder) => {
  const last = folder.split('/').pop();
  return [
    `$${folder}/*`,
    `$${folder}/**`,
    `$lib/${last}/*`,
    `$lib/${last}/**`,
    `../${last}/*`,
    `../../${last}/*`,
    `../../${folder}/*`,
    `../../../${folder}/*`
  ];
};
const arrows = Object.entries(ARROWS).map(([folder, allowed]) => {
  const reachable = (other) => other === folder || allowed.some((each) => other === each || other.startsWith(`${each}/`));
  const host = folder.startsWith('core') ? ['node:*', 'svelte', 'svelte/*', '$*', '**/src/**', '**/demo/**', '**/tests/**'] : [];
  const group = [...new Set([...host, ...FOLDERS.filter((other) => !reachable(other)).flatMap(waysTo)])];
  return {
    files: [`${folder}/**/*.{ts,svelte}`],
    ignores: ['**/*.test.ts'],
    rules: {
      '@typescript-eslint/no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group,
              message: `${folder} may import from ${allowed.join(', ') || 'no other folder'} only.`,
              allowTypeImports: ['src/lib/views', 'src/lib/state'].includes(folder)
            }
          ]
        }
      ]
    }
  };
});

/**
 * What is registered by a line in a list: which files of a folder need one, how it is found in the list, and what they are called.
 * A file that was forgotten would be missed by a user.
 */
const REGISTERED = {
  'core/commands/index.ts': { files: () => sourcesIn('core/commands', /= (define|toggle|levelOf)\(/), noun: 'command' },
  'core/session/tables.ts': { files: () => sourcesIn('core/session/tables', /is\.table\(/), noun: 'table' },
  'core/processors/index.ts': {
    files: () =>
      readdirSync('core/processors')
        .map((name) => `core/processors/${name}/control.ts`)
        .filter(existsSync),
    noun: 'processor'
  },
  'src/lib/views/index.ts': {
    files: () =>
      readdirSync('src/lib/views')
        .map((name) => `src/lib/views/${name}/view.ts`)
        .filter(existsSync),
    noun: 'view'
  }
};
function sourcesIn(folder, what) {
  return readdirSync(folder)
    .filter((name) => name.endsWith('.ts') && !name.endsWith('.test.ts') && !['index.ts', 'define.ts'].includes(name))
    .map((name) => `${folder}/${name}`)
    .filter((file) => what.test(readFileSync(file, 'utf8')));
}
const registered = {
  create: (context) => ({
    Program(node) {
      const list = path.relative(import.meta.dirname, context.filename);
      const { files, noun } = REGISTERED[list] ?? {};
      if (!files) return;
      const imported = new Set(
        node.body
          .filter((statement) => statement.type === 'ImportDeclaration')
          .map(({ source }) => path.join(path.dirname(list), source.value).replace(/(\.ts)?$/, '.ts'))
      );
      for (const file of files())
        if (!imported.has(file)) context.report({ node, message: `${file} is no ${noun} yet: it needs its line here.` });
    }
  })
};

export default ts.config(
  {
    ignores: [
      'build/',
      'dist/',
      'data/',
      '.svelte-kit/',
      'node_modules/',
      'core/kernel/assembly/',
      'core/processors/*/kernel.ts',
      'test-results/'
    ]
  },
  ...ts.configs.recommended,
  ...svelte.configs.recommended,
  {
    languageOptions: { globals: { ...globals.browser, ...globals.node } },
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      'no-empty': ['error', { allowEmptyCatch: false }],
      eqeqeq: ['error', 'always', { null: 'ignore' }],
      // Every address here is one of our own routes, without a base path.
      'svelte/no-navigation-without-resolve': 'off',
      // Row maps are plain on purpose: signals.svelte.ts says when they changed.
      'svelte/prefer-svelte-reactivity': 'off'
    }
  },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    languageOptions: { parserOptions: { parser: ts.parser, extraFileExtensions: ['.svelte'], svelteConfig } },
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: 'SvelteElement[kind="html"] > SvelteStartTag > SvelteAttribute[key.name="title"]',
          message: 'A hint is data-hint: ui/Hints.svelte shows it.'
        },
        {
          selector: 'SvelteElement[kind="html"][name.name=/^(select|textarea|progress)$/]',
          message: 'Flowbite Svelte has this part (decision 30).'
        }
      ]
    }
  },
  {
    files: ['src/lib/{state,ui,views,workers}/**', 'src/routes/**/*.svelte'],
    ignores: ['**/*.test.ts', 'src/lib/ui/clipboard.ts'],
    rules: {
      'no-restricted-properties': [
        'error',
        { object: 'crypto', property: 'randomUUID', message: 'Over plain HTTP a page has none: use the package uuid.' },
        { object: 'navigator', property: 'clipboard', message: 'Over plain HTTP a page has none: use ui/clipboard.' }
      ]
    }
  },
  {
    files: ['core/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-globals': ['error', 'window', 'document', 'process', 'fetch', 'performance', 'setTimeout', 'crypto'],
      'no-restricted-properties': ['error', { object: 'Math', property: 'random' }, { object: 'Date', property: 'now' }]
    }
  },
  {
    files: Object.keys(REGISTERED),
    plugins: { isotaxis: { rules: { registered } } },
    rules: { 'isotaxis/registered': 'error' }
  },
  ...arrows
);
