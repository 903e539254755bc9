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
      },
    },
  },
  server: {
    host: '127.0.0.1',
    headers: { 'Cross-Origin-Opener-Policy': 'same-origin', 'Cross-Origin-Embedder-Policy': 'require-corp' },
    proxy: { '/api': 'http://127.0.0.1:4173' },
  },
})
