import path from 'node:path';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  resolve: { alias: { $core: path.resolve('core'), $demo: path.resolve('demo'), $lib: path.resolve('src/lib') } },
  test: {
    include: ['{core,src,demo}/**/*.test.ts'],
    testTimeout: 30000,
    hookTimeout: 60000,
    maxWorkers: 2
  }
});
