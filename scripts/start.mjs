import { spawn } from 'node:child_process'
import { build, buildPrograms, installPackages } from './set-up.mjs'

const say = (text) => process.stderr.write(`${text}\n`)

installPackages(say)
build(say)
const programs = buildPrograms(say)
const server = spawn(process.execPath, [`${programs}/serve.cjs`], { stdio: 'inherit' })
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal))
server.on('exit', (code) => process.exit(code ?? 0))
