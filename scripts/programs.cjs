const { existsSync, readdirSync, statSync } = require('node:fs')
const { join } = require('node:path')

/** All files below a path, and when the newest of them was changed, ms. */
function look(path, seen) {
  for (const entry of readdirSync(path, { withFileTypes: true })) {
    const file = join(path, entry.name)
    if (entry.isDirectory()) look(file, seen)
    else note(file, seen)
  }
}

function note(file, seen) {
  seen.files++
  seen.newest = Math.max(seen.newest, statSync(file).mtimeMs)
}

/**
 * The folder that has the command line and the server as they are built from the sources there now, by number and time
 * of the files, since each start asks; whether it is there already.
 */
exports.programsFolder = function programsFolder(stamps) {
  const seen = { files: 0, newest: 0 }
  // What they may import, by the rules of the imports.
  for (const folder of ['src/cli', 'src/core', 'src/server']) look(folder, seen)
  for (const file of ['package-lock.json', 'scripts/compiled.cjs', 'vite.programs.config.ts']) note(file, seen)
  const folder = join(stamps, `programs-${seen.files}-${Math.round(seen.newest)}`)
  return { folder, isThere: existsSync(folder) }
}

/** For a process whose workers take all cores: helpers of the garbage collector would only take time from them. */
exports.onAllCores = ['--single-threaded-gc']
