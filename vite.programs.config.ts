import { defineConfig } from 'vite'

/** Packages of the server, which loads them from where they are installed; the command line needs none of them. */
const packages = [/^@?koa/, 'sharp', 'pino', 'ipaddr.js', 'p-queue']

/**
 * The command line and the server as Node runs them: compiled once, with the packages that the command line needs, so
 * that a start compiles nothing. The paths to dist and demo are the same from here as from src/cli and src/server.
 */
export default defineConfig({
  publicDir: false,
  build: {
    ssr: true,
    target: 'node20',
    emptyOutDir: true,
    minify: false,
    rollupOptions: {
      input: { tug: 'src/cli/tug.ts', serve: 'src/server/start.ts' },
      external: packages,
      output: { entryFileNames: '[name].js', chunkFileNames: '[name]-[hash].js' },
    },
  },
  ssr: { noExternal: true },
})
