import { Buffer } from 'node:buffer'
import { spawn } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { build, buildPrograms, installChromium, installPackages, installPhotos } from './set-up.mjs'

const say = (text) => process.stdout.write(`\n== ${text}\n`)

installPackages(say)
installChromium(say)
installPhotos(say)

const npx = (...args) => ['npx', '--no-install', ...args]

/**
 * Each part runs even when one before it has failed, so that one run reports everything. What keeps one core busy runs
 * in one of two lanes, longest first.
 */
const parts = [
  {
    name: 'lint, types, build and unit',
    lanes: 2,
    commands: [
      ['eslint', npx('eslint', '.')],
      // The native compiler; the one in JavaScript is there for the lint, which needs its interface.
      ['types', ['node', 'node_modules/native-typescript/bin/tsc', '-b']],
      ['format', npx('prettier', '--check', '.', '--log-level', 'warn')],
      ['unused code', npx('knip')],
      ['import directions', npx('depcruise', 'src', '--config', '.dependency-cruiser.cjs')],
      ['photos for the browser tests', npx('tsx', 'scripts/photos.ts')],
      // Nothing else begins until it has ended: unit tests look at what was built.
      ['build', null],
      ['unit', npx('vitest', 'run', '--reporter=dot', '--reporter=json', '--outputFile.json=.cache/unit.json')],
    ],
  },
  { name: 'browser, beside', commands: [browserTests('beside')] },
  { name: 'browser, alone', commands: [browserTests('alone')] },
]
const failed = []
for (const { name, commands, lanes = 1 } of parts) {
  say(name)
  const start = performance.now()
  const waiting = [...commands]
  const lane = async () => {
    for (let next = waiting.shift(); next; next = waiting.shift()) {
      const [what, argv, env] = next
      const began = performance.now()
      const ok = argv === null ? (build(say), buildPrograms(say), true) : await command(argv, lanes > 1, env)
      if (!ok) failed.push(what)
      if (lanes > 1) say(`${what}: ${describe(ok, began)}`)
    }
  }
  const before = failed.length
  await Promise.all(Array.from({ length: lanes }, lane))
  const ok = failed.length === before
  say(`${name}: ${describe(ok, start)}`)
}

const unit = counts('.cache/unit.json', (report) => [report.numPassedTests, report.numFailedTests])
const browser = ['beside', 'alone'].map((project) =>
  counts(`.cache/${project}.json`, ({ stats }) => [stats.expected + stats.flaky, stats.unexpected]),
)
const [passes, failures] = [0, 1].map((which) => [unit, ...browser].reduce((sum, count) => sum + count[which], 0))
if (failed.length > 0) say(`failed: ${failed.join(', ')}`)
process.stdout.write(`\n${passes} passed, ${failures} failed\n`)
process.exit(failed.length > 0 ? 1 : 0)

function describe(ok, since) {
  return `${ok ? 'passed' : 'FAILED'} in ${((performance.now() - since) / 1000).toFixed(0)} s`
}

/** The browser tests of one project; their report goes where it is counted. */
function browserTests(project) {
  return [
    `browser, ${project}`,
    ['npx', '--no-install', 'playwright', 'test', `--project=${project}`, `--output=test-results/${project}`],
    { TUG_BROWSER_REPORT: `.cache/${project}.json` },
  ]
}

/** Runs a command; what it says comes at once, or in one piece when others run beside it. */
function command([name, ...args], apart, env) {
  return new Promise((resolve) => {
    const child = spawn(name, args, {
      stdio: apart ? ['ignore', 'pipe', 'pipe'] : 'inherit',
      env: { ...process.env, ...env },
    })
    const said = []
    child.stdout?.on('data', (part) => said.push(part))
    child.stderr?.on('data', (part) => said.push(part))
    child.on('error', () => resolve(false))
    child.on('close', (status) => {
      process.stdout.write(Buffer.concat(said))
      resolve(status === 0)
    })
  })
}

function counts(file, read) {
  try {
    return read(JSON.parse(readFileSync(file, 'utf8')))
  } catch {
    return [0, 1]
  }
}
