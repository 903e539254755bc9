import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [react()],
  // The server knows a worker's script by its folder: it is not cached for long, since it has a policy of its own.
  worker: {
    format: 'es',
    rollupOptions: {
      output: { entryFileNames: 'assets/workers/[name]-[hash].js', chunkFileNames: 'assets/workers/[name]-[hash].js' },
    },
  },
  build: {
    target: 'es2023',
    chunkSizeWarningLimit: 700,
    modulePreload: { polyfill: false },
    // Seven characters tell the files apart as well as eight, and the first paint brings the names of all of them.
    rollupOptions: {
      output: {
        hashCharacters: 'base36',
        entryFileNames: 'assets/[name]-[hash:7].js',
        chunkFileNames: 'assets/[name]-[hash:7].js',
        assetFileNames: 'assets/[name]-[hash:7][extname]',
        // One file for what the first paint needs, one for what every opening needs behind it, and one for the controls
        // that the steps share: a hundred small files cost more than their content.
        codeSplitting: {
          groups: [
            { name: 'first', tags: ['$initial'], priority: 3 },
            { name: 'soon', test: /src[\\/]app[\\/]shell[\\/]soon\.ts$/, priority: 2 },
            { name: 'controls', test: /src[\\/]app[\\/]controls[\\/]/, priority: 1 },
          ],
        },
      },
    },
  },
  server: {
    host: '127.0.0.1',
    headers: { 'Cross-Origin-Opener-Policy': 'same-origin', 'Cross-Origin-Embedder-Policy': 'require-corp' },
    proxy: { '/api': 'http://127.0.0.1:4173' },
  },
})
