const { resolve } = require('node:path')
const { loadCompiled } = require('./compiled.cjs')
const { onAllCores, programsFolder } = require('./programs.cjs')

// CommonJS, and as few of Node's modules as possible: a third of a short command's time is spent on loading.
const args = process.argv.slice(2)

function start(folder) {
  if (args[0] !== 'sweep' && args[0] !== 'search') return void loadCompiled(folder, 'tug.cjs')
  const { spawn } = require('node:child_process')
  const { constants } = require('node:os')
  const child = spawn(process.execPath, [...onAllCores, resolve(folder, 'tug.cjs'), ...args], { stdio: 'inherit' })
  // A signal to this process ends the command, and this process with it.
  for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => child.kill(signal))
  child.on('exit', (code, signal) => process.exit(code ?? 128 + constants.signals[signal]))
}

const { folder, isThere } = programsFolder('.cache')
if (isThere) start(resolve(folder))
// Only the command itself writes to stderr.
else void import('./set-up.mjs').then(({ buildPrograms }) => start(resolve(buildPrograms(() => undefined))))
