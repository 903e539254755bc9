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
  build: { target: 'es2023', chunkSizeWarningLimit: 700, modulePreload: { polyfill: false } },
  server: {
    host: '127.0.0.1',
    headers: { 'Cross-Origin-Opener-Policy': 'same-origin', 'Cross-Origin-Embedder-Policy': 'require-corp' },
    proxy: { '/api': 'http://127.0.0.1:4173' },
  },
})
