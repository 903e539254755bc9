import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { build } from 'vite'

/** A file as one script for a page. */
export async function bundle(entry: string): Promise<string> {
  const built = await build({
    configFile: false,
    logLevel: 'silent',
    build: { write: false, lib: { entry, formats: ['iife'], name: 'bench' } },
  })
  const [first] = Array.isArray(built) ? built : [built]
  if (!first || !('output' in first)) throw new Error('nothing was built')
  return first.output[0].code
}

/**
 * A module built as the product is, and loaded. What runs these files as they stand gives each inner function its name
 * whenever it is made, which nearly doubles the time of a loop of small functions: no user has that.
 */
export async function asBuilt<Module>(entry: string): Promise<Module> {
  const folder = mkdtempSync(join(tmpdir(), 'tug-bench-'))
  try {
    await build({
      configFile: false,
      logLevel: 'error',
      ssr: { noExternal: true },
      build: { ssr: entry, outDir: folder, rollupOptions: { output: { entryFileNames: 'built.mjs' } } },
    })
    return (await import(pathToFileURL(join(folder, 'built.mjs')).href)) as Module
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
