import { Buffer } from 'node:buffer'
import { spawn } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { build, installChromium, installPackages, installPhotos } from './set-up.mjs'

const say = (text) => process.stdout.write(`\n== ${text}\n`)

installPackages(say)
installChromium(say)
installPhotos(say)

/** Each part runs even when one before it has failed, so that one run tells all. Parts that keep one core busy run beside each other. */
const parts = [
  [
    ['lint', ['npm', 'run', '-s', 'lint']],
    ['types', ['npm', 'run', '-s', 'types']],
  ],
  [
    [
      'unit',
      [
        'npx',
        '--no-install',
        'vitest',
        'run',
        '--reporter=dot',
        '--reporter=json',
        '--outputFile.json=.cache/unit.json',
      ],
    ],
  ],
  [['build', null]],
  [browserTests('beside')],
  [browserTests('alone')],
]
const failed = []
for (const beside of parts) {
  say(beside.map(([name]) => name).join(', '))
  const results = await Promise.all(
    beside.map(async ([name, asked, env]) => {
      const start = performance.now()
      const ok = asked === null ? (build(say), true) : await command(asked, beside.length > 1, env)
      return { name, ok, seconds: (performance.now() - start) / 1000 }
    }),
  )
  for (const { name, ok, seconds } of results) {
    say(`${name}: ${ok ? 'passed' : 'FAILED'} in ${seconds.toFixed(0)} s`)
    if (!ok) failed.push(name)
  }
}

const unit = counts('.cache/unit.json', (report) => [report.numPassedTests, report.numFailedTests])
const browser = ['beside', 'alone'].map((project) =>
  counts(`.cache/${project}.json`, ({ stats }) => [stats.expected + stats.flaky, stats.unexpected]),
)
const [passes, failures] = [0, 1].map((which) => [unit, ...browser].reduce((sum, count) => sum + count[which], 0))
if (failed.length > 0) say(`failed: ${failed.join(', ')}`)
process.stdout.write(`\n${passes} passed, ${failures} failed\n`)
process.exit(failed.length > 0 ? 1 : 0)

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
