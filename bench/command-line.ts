import { spawnSync } from 'node:child_process'
import { fixed, pair, type Line } from './measure.ts'

const mostTimesEmpty = 6

/** How long a command takes until its answer, against a Node that does nothing; the program is built before. */
export function benchCommandLine(): Line[] {
  const run = (command: string, ...args: string[]) => {
    const { status } = spawnSync(command, args, { stdio: ['ignore', 'ignore', 'inherit'] })
    if (status !== 0) throw new Error(`${command} ${args.join(' ')} ended with ${status}`)
  }
  const { ratio, a, b } = pair(
    9,
    () => run('npm', 'run', '-s', 'tug', '--', 'run', 'demo/saltmarsh.tiletug.json', '--json'),
    () => run(process.execPath, '-e', '0'),
  )
  return [
    {
      what: '`npm run -s tug -- run demo/… --json` ÷ `node -e 0` (wall time)',
      value: `${fixed(ratio, 1)} (${fixed(a.median, 0)} ms against ${fixed(b.median, 0)})`,
      target: `≤ ${mostTimesEmpty}`,
      ok: ratio <= mostTimesEmpty,
      note: 'npm itself is more than half of it',
    },
  ]
}
