import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';

const isolation = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin'
};

export default defineConfig({
  plugins: [tailwindcss(), sveltekit()],
  server: { headers: isolation, fs: { allow: ['core', 'files', 'demo', 'dist'] } },
  build: { assetsInlineLimit: 0, target: 'es2023' },
  worker: { format: 'es' }
});
