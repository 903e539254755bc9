import { spawn, spawnSync } from 'node:child_process'
import { availableParallelism } from 'node:os'

/**
 * The browser tests so many times over (the first argument, three by default) while a busy loop holds each core: none
 * may fail. The second argument is how many run at a time; eight hold them up for longer than busy loops do. With a
 * third one, processes of the browsers are halted for up to so many seconds.
 */
const times = Number(process.argv[2] ?? 3)
const atATime = process.argv[3] ?? null
const mostSeconds = process.argv[4] ?? null
const busy = Array.from({ length: availableParallelism() }, () =>
  spawn(process.execPath, ['-e', 'for (;;);'], { stdio: 'ignore' }),
)
if (mostSeconds !== null)
  busy.push(spawn(process.execPath, ['scripts/halt-browsers.mjs', mostSeconds], { stdio: 'ignore' }))
const failed = []
try {
  for (let n = 1; n <= times; n++)
    for (const project of ['beside', 'alone']) {
      const args = ['--no-install', 'playwright', 'test', `--project=${project}`, '--reporter=dot']
      if (atATime !== null && project === 'beside') args.push(`--workers=${atATime}`)
      if (spawnSync('npx', args, { stdio: 'inherit' }).status !== 0) failed.push(`${project}, run ${n}`)
    }
} finally {
  for (const loop of busy) loop.kill()
}
process.stdout.write(failed.length === 0 ? `\n${times} times, 0 failures\n` : `\nfailed: ${failed.join('; ')}\n`)
process.exit(failed.length === 0 ? 0 : 1)
