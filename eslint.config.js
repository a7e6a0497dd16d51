// Lint: the usual rules, and the arrows between folders, which run one way.
import boundaries from 'eslint-plugin-boundaries';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';
import svelteConfig from './svelte.config.js';

const folder = (type, pattern) => ({ type, pattern, mode: 'folder' });

export default ts.config(
  { ignores: ['build/', 'dist/', 'data/', '.svelte-kit/', 'node_modules/', 'core/kernel/assembly/', 'test-results/'] },
  ...ts.configs.recommended,
  ...svelte.configs.recommended,
  {
    languageOptions: { globals: { ...globals.browser, ...globals.node } },
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      'no-empty': ['error', { allowEmptyCatch: false }],
      'no-undef': 'off',
      eqeqeq: ['error', 'always', { null: 'ignore' }],
      // Every address here is one of our own routes, without a base path.
      'svelte/no-navigation-without-resolve': 'off',
      'svelte/prefer-svelte-reactivity': 'off'
    }
  },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    languageOptions: { parserOptions: { parser: ts.parser, extraFileExtensions: ['.svelte'], svelteConfig } }
  },
  {
    // The core imports nothing from outside but yup, and knows no host.
    files: ['core/**/*.ts'],
    ignores: ['core/**/*.test.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        { patterns: [{ group: ['node:*', 'svelte*', '$*', '*/src/*', '*/demo/*', '*/tests/*'], message: 'The core knows no host.' }] }
      ],
      'no-restricted-globals': ['error', 'window', 'document', 'process', 'fetch', 'performance', 'setTimeout', 'crypto'],
      'no-restricted-properties': [
        'error',
        { object: 'Math', property: 'random', message: 'The core is deterministic.' },
        { object: 'Date', property: 'now' }
      ]
    }
  },
  {
    files: ['core/**/*.ts', 'src/**/*.{ts,svelte}', 'demo/**/*.ts'],
    ignores: ['**/*.test.ts'],
    plugins: { boundaries },
    settings: {
      'import/resolver': { typescript: { alwaysTryTypes: true } },
      'boundaries/elements': [
        folder('core-session', 'core/session'),
        folder('core-routing', 'core/routing'),
        folder('core-dsp', 'core/dsp'),
        folder('core-engine', 'core/engine'),
        folder('core-measure', 'core/measure'),
        folder('core-formats', 'core/formats'),
        folder('demo', 'demo'),
        folder('server', 'src/lib/server'),
        folder('workers', 'src/lib/workers'),
        folder('state', 'src/lib/state'),
        folder('ui', 'src/lib/ui'),
        folder('views', 'src/lib/views'),
        folder('routes', 'src/routes')
      ]
    },
    rules: {}
  }
);
