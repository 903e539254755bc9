import { spawnSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { build, installChromium, installPackages, installPhotos } from './set-up.mjs'

const say = (text) => process.stdout.write(`\n== ${text}\n`)

installPackages(say)
installChromium(say)
installPhotos(say)

/** Each part runs even when one before it has failed, so that one run tells all. */
const parts = [
  ['lint', () => command('npm', ['run', '-s', 'lint'])],
  ['types', () => command('npm', ['run', '-s', 'types'])],
  ['unit', () => command('npx', ['--no-install', 'vitest', 'run', '--reporter=dot', '--reporter=json', '--outputFile.json=.cache/unit.json'])],
  ['build', () => (build(say), true)],
  ['browser', () => command('npx', ['--no-install', 'playwright', 'test'])],
]
const failed = []
for (const [name, run] of parts) {
  say(name)
  const start = performance.now()
  const ok = run()
  say(`${name}: ${ok ? 'passed' : 'FAILED'} in ${((performance.now() - start) / 1000).toFixed(0)} s`)
  if (!ok) failed.push(name)
}

const unit = counts('.cache/unit.json', (report) => [report.numPassedTests, report.numFailedTests])
const browser = counts('.cache/browser.json', ({ stats }) => [stats.expected + stats.flaky, stats.unexpected])
if (failed.length > 0) say(`failed: ${failed.join(', ')}`)
process.stdout.write(`\n${unit[0] + browser[0]} passed, ${unit[1] + browser[1]} failed\n`)
process.exit(failed.length > 0 ? 1 : 0)

function command(name, args) {
  return spawnSync(name, args, { stdio: 'inherit' }).status === 0
}

function counts(file, read) {
  try {
    return read(JSON.parse(readFileSync(file, 'utf8')))
  } catch {
    return [0, 1]
  }
}
