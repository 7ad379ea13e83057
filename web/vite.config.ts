import { svelte } from '@sveltejs/vite-plugin-svelte';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';
import { wuchale } from 'wuchale/vite';

const server = 'http://127.0.0.1:5480';

export default defineConfig(({ mode }) => ({
  // Texts are taken out of the components before these are compiled. Tests of modules read them as they stand.
  plugins: [mode === 'test' ? [] : wuchale(), tailwindcss(), svelte()],
  build: {
    // A worklet cannot be loaded from a data: address under the server's content security policy.
    assetsInlineLimit: 0,
    target: 'es2023',
  },
  server: { proxy: { '/api': { target: server, ws: true } } },
}));
