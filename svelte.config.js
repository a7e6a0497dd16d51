import adapter from '@sveltejs/adapter-node';
import { vitePreprocess } from '@sveltejs/vite-plugin-svelte';

/** @type {import('@sveltejs/kit').Config} */
export default {
  preprocess: vitePreprocess(),
  kit: {
    adapter: adapter(),
    alias: { $core: 'core', $files: 'files', $demo: 'demo' },
    csp: {
      mode: 'nonce',
      directives: {
        'default-src': ['self'],
        'script-src': ['self', 'wasm-unsafe-eval'],
        'style-src': ['self', 'unsafe-inline'],
        'worker-src': ['self', 'blob:'],
        'img-src': ['self', 'data:'],
        'connect-src': ['self'],
        'frame-ancestors': ['none']
      }
    },
    // Host and Origin are checked in hooks.server.ts, which also covers requests without a form body.
    csrf: { trustedOrigins: ['*'] }
  }
};
