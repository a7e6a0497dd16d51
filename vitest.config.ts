import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['{core,src,demo,scripts}/**/*.test.ts'],
    exclude: ['**/node_modules/**'],
    testTimeout: 30000,
    hookTimeout: 60000,
    maxWorkers: 2
  }
});
