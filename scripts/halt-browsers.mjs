import { spawnSync } from 'node:child_process'
import { setTimeout as pause } from 'node:timers/promises'

/**
 * Until it is ended: halts a process of a browser without windows for up to so many seconds (the first argument), then
 * another one. A machine that is short of time does the same, but seldom: what a test, or the product, assumes about
 * the order of things shows within minutes.
 */
const mostMs = Number(process.argv[2]) * 1000
for (;;) {
  const found = spawnSync('pgrep', ['-f', 'headless-shell'], { encoding: 'utf8' }).stdout.split('\n').filter(Boolean)
  const chosen = found[Math.floor(Math.random() * found.length)]
  if (chosen && signal(chosen, 'SIGSTOP')) {
    await pause(Math.random() * mostMs)
    signal(chosen, 'SIGCONT')
  }
  await pause(300 + Math.random() * 700)
}

function signal(id, name) {
  try {
    return process.kill(Number(id), name)
  } catch {
    // It has ended meanwhile.
    return false
  }
}
