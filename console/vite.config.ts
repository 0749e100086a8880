import { svelte } from '@sveltejs/vite-plugin-svelte';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [tailwindcss(), svelte()],
  build: {
    target: 'es2022',
    outDir: '../src/yugum/api/console',
    emptyOutDir: true,
    assetsInlineLimit: 0
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8420' } }
});
