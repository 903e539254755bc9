import { resolve } from 'node:path'
import { pathToFileURL } from 'node:url'
import { buildPrograms } from './set-up.mjs'

// What goes to stderr is the command's own.
const folder = buildPrograms(() => undefined)
await import(pathToFileURL(resolve(folder, 'tug.js')).href)
