import { spawn } from 'node:child_process'
import { build, installPackages } from './set-up.mjs'

const say = (text) => process.stderr.write(`${text}\n`)

installPackages(say)
build(say)
const server = spawn(process.execPath, ['--import', 'tsx', 'src/server/main.ts'], { stdio: 'inherit' })
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal))
server.on('exit', (code) => process.exit(code ?? 0))
