const { existsSync, readFileSync, renameSync, writeFileSync } = require('node:fs')
const { createRequire, wrap } = require('node:module')
const { join } = require('node:path')
const { setFlagsFromString } = require('node:v8')
const { constants, Script } = require('node:vm')

/**
 * How much of a function is run, in bytes of its code, before V8 optimises it: more than four times the
 * default. A short command ends before optimised code has paid for itself, and a long one runs no slower.
 */
const optimiseAfter = '--interrupt-budget=300000'

/** Where the code that was compiled of a file lies, beside it. */
const codeOf = (file) => `${file}.code`

/**
 * Loads a script of a folder of built programs, and those that it asks for, with the code that an earlier run has left
 * beside them: what has been compiled once, each function that was called among it, is not compiled again. Code of
 * another Node is refused by it, and then everything is compiled again. Gives the files with which that was so, and
 * what keeps the code of this run for the next.
 */
exports.loadCompiled = function loadCompiled(folder, name) {
  // Before anything is compiled: V8 keeps with the code which flags it was compiled for.
  setFlagsFromString(optimiseAfter)
  const scripts = new Map()
  const modules = new Map()
  const refused = []
  const installed = createRequire(join(folder, name))
  const load = (id) => {
    const known = modules.get(id)
    if (known) return known.exports
    const module = { exports: {} }
    modules.set(id, module)
    const file = join(folder, id)
    const script = new Script(wrap(readFileSync(file, 'utf8')), {
      filename: file,
      cachedData: existsSync(codeOf(file)) ? readFileSync(codeOf(file)) : undefined,
      importModuleDynamically: constants.USE_MAIN_CONTEXT_DEFAULT_LOADER,
    })
    scripts.set(file, script)
    if (script.cachedDataRejected) refused.push(id)
    const ask = (asked) => (asked.startsWith('./') ? load(asked.slice(2)) : installed(asked))
    script.runInThisContext()(module.exports, ask, module, file, folder)
    return module.exports
  }
  load(name)
  const keepCode = () => {
    for (const [file, script] of scripts) {
      // Whole or not at all, for commands that start meanwhile.
      writeFileSync(`${codeOf(file)}-${process.pid}`, script.createCachedData())
      renameSync(`${codeOf(file)}-${process.pid}`, codeOf(file))
    }
  }
  return { keepCode, refused }
}
