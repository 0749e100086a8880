import { svelte } from '@sveltejs/vite-plugin-svelte';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vitest/config';

export default defineConfig(({ mode }) => ({
  plugins: [tailwindcss(), svelte()],
  build: {
    target: 'es2022',
    outDir: '../src/yugum/api/console',
    emptyOutDir: true,
    assetsInlineLimit: 0
  },
  test: { environment: 'jsdom', include: ['src/**/*.test.ts'] },
  resolve: mode === 'test' ? { conditions: ['browser'] } : {},
  server: { proxy: { '/api': 'http://127.0.0.1:8420' } }
}));
