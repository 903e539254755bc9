import { buildPrograms } from './set-up.mjs'

buildPrograms((text) => process.stderr.write(`${text}\n`))
await import('../.cache/programs/serve.js')
