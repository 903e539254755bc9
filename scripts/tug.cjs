const { resolve } = require('node:path')
const { loadCompiled } = require('./compiled.cjs')
const { onAllCores, programsFolder } = require('./programs.cjs')

// CommonJS, and no more of Node than it needs: a third of a short command's time is what it loads before it starts.
const args = process.argv.slice(2)

function start(folder) {
  if (args[0] !== 'sweep' && args[0] !== 'search') return void loadCompiled(folder, 'tug.cjs')
  const { spawn } = require('node:child_process')
  const { constants } = require('node:os')
  const child = spawn(process.execPath, [...onAllCores, resolve(folder, 'tug.cjs'), ...args], { stdio: 'inherit' })
  // Whoever ends this ends the command, and this with it.
  for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => child.kill(signal))
  child.on('exit', (code, signal) => process.exit(code ?? 128 + constants.signals[signal]))
}

const { folder, isThere } = programsFolder('.cache')
if (isThere) start(resolve(folder))
// What goes to stderr is the command's own.
else void import('./set-up.mjs').then(({ buildPrograms }) => start(resolve(buildPrograms(() => undefined))))
