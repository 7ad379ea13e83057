import { svelte } from '@sveltejs/vite-plugin-svelte';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';

const server = 'http://127.0.0.1:5480';

export default defineConfig({
  plugins: [tailwindcss(), svelte()],
  build: {
    // A worklet cannot be loaded from a data: address under the server's content security policy.
    assetsInlineLimit: 0,
    target: 'es2023',
  },
  server: { proxy: { '/api': { target: server, ws: true } } },
});
