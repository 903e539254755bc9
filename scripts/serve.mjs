import { resolve } from 'node:path'
import { pathToFileURL } from 'node:url'
import { buildPrograms } from './set-up.mjs'

const folder = buildPrograms((text) => process.stderr.write(`${text}\n`))
await import(pathToFileURL(resolve(folder, 'serve.cjs')).href)
