import { svelte } from '@sveltejs/vite-plugin-svelte';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [tailwindcss(), svelte()],
  build: {
    rolldownOptions: { checks: { pluginTimings: false } },
    target: 'es2022',
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 1500,
  },
  server: {
    proxy: {
      '/api': {
        target: 'http://127.0.0.1:8731',
        ws: true,
        changeOrigin: true,
        headers: { origin: 'http://127.0.0.1:8731' },
      },
    },
  },
});
