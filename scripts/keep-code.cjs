const { loadCompiled } = require('./compiled.cjs')

// Part of the build: runs the command line once, as `tug run` does, and keeps the code that was compiled for it.
const [folder, project] = process.argv.slice(2)
process.argv = [process.argv[0], 'tug', 'run', project, '--json']
process.on('exit', loadCompiled(folder, 'tug.cjs').keepCode)
