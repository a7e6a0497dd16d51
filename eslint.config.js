// Lint: the usual rules, and the arrows between folders, which run one way.
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';
import svelteConfig from './svelte.config.js';

/** Folders that each folder may import from, besides itself. What is not listed is refused. */
const ARROWS = {
  'core/session': [],
  'core/kernel': [],
  'core/processors': ['core/session', 'core/kernel'],
  'core/routing': ['core/session', 'core/processors'],
  'core/commands': ['core/session', 'core/routing', 'core/processors'],
  'core/engine': ['core/session', 'core/routing', 'core/processors', 'core/kernel'],
  'core/measure': [],
  'core/formats': ['core/session', 'core/processors', 'core/routing'],
  'core/sync': ['core/session', 'core/commands'],
  'core/organise': ['core/session', 'core/commands', 'core/processors', 'core/formats', 'core/routing'],
  demo: ['core/session', 'core/commands'],
  files: ['core'],
  cli: ['core', 'files'],
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
              allowTypeImports: folder === 'src/lib/views'
            }
          ]
        }
      ]
    }
  };
});

export default ts.config(
  { ignores: ['build/', 'dist/', 'data/', '.svelte-kit/', 'node_modules/', 'core/kernel/assembly/', 'core/processors/*/kernel.ts', 'test-results/'] },
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
    languageOptions: { parserOptions: { parser: ts.parser, extraFileExtensions: ['.svelte'], svelteConfig } }
  },
  {
    files: ['core/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-globals': ['error', 'window', 'document', 'process', 'fetch', 'performance', 'setTimeout', 'crypto'],
      'no-restricted-properties': ['error', { object: 'Math', property: 'random' }, { object: 'Date', property: 'now' }]
    }
  },
  ...arrows
);
