import { spawn } from 'node:child_process'
import { constants } from 'node:os'
import { resolve } from 'node:path'
import { pathToFileURL } from 'node:url'
import { buildPrograms, onAllCores } from './set-up.mjs'

// What goes to stderr is the command's own.
const program = resolve(
  buildPrograms(() => undefined),
  'tug.js',
)
const args = process.argv.slice(2)

if (['sweep', 'search'].includes(args[0])) {
  const child = spawn(process.execPath, [...onAllCores, program, ...args], { stdio: 'inherit' })
  // Whoever ends this ends the command, and this with it.
  for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => child.kill(signal))
  child.on('exit', (code, signal) => process.exit(code ?? 128 + constants.signals[signal]))
} else await import(pathToFileURL(program).href)
