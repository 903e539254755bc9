import { defineConfig } from 'vite'

/**
 * Packages that are loaded from where they are installed: those of the server, and the pool, which starts a file of its
 * own.
 */
const packages = [/^@?koa/, 'sharp', 'pino', 'ipaddr.js', 'piscina']

/**
 * The command line and the server as Node runs them: compiled once, with the packages that the command line needs, so
 * that a start compiles nothing; as CommonJS, whose compiled code can be kept (scripts/compiled.cjs). The paths to dist
 * and demo are the same from here as from src/cli and src/server.
 */
export default defineConfig({
  publicDir: false,
  build: {
    ssr: true,
    target: 'node20',
    emptyOutDir: true,
    minify: false,
    rollupOptions: {
      input: {
        tug: 'src/cli/tug.ts',
        'measure-worker': 'src/cli/measure-worker.ts',
        serve: 'src/server/start.ts',
      },
      external: packages,
      output: { format: 'cjs', entryFileNames: '[name].cjs', chunkFileNames: '[name]-[hash].cjs' },
    },
  },
  ssr: { noExternal: true },
})
