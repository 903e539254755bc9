import { build, buildPrograms } from './set-up.mjs'

const say = (text) => process.stderr.write(`${text}\n`)
build(say)
buildPrograms(say)
