import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [react()],
  worker: { format: 'es' },
  build: { target: 'es2023', chunkSizeWarningLimit: 700, modulePreload: { polyfill: false } },
  server: {
    host: '127.0.0.1',
    headers: { 'Cross-Origin-Opener-Policy': 'same-origin', 'Cross-Origin-Embedder-Policy': 'require-corp' },
    proxy: { '/api': 'http://127.0.0.1:4173' },
  },
})
