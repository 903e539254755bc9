import { readFile } from 'node:fs/promises'
import { chromium } from '@playwright/test'
import { runChaos } from '../tests/support/chaos.ts'
import { freePorts, ServerProcess } from '../tests/support/servers.ts'
import { launchOptions, withoutHints } from '../tests/support/launch.ts'

/**
 * The real interface driven by chance for so many minutes (the first argument, 10 by default) with a seed (the second)
 * while the server, storage and tabs come and go. Says what was done and what was not as it should be; exit code 1
 * then.
 */
const minutes = Number(process.argv[2] ?? 10)
const seed = Number(process.argv[3] ?? 7)

const [port] = await freePorts(1)
const server = new ServerProcess(port!)
await server.start()
const browser = await chromium.launch(launchOptions)
const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
await withoutHints(context)
const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as object
const gesture = {
  name: 'short',
  steps: [
    { do: 'wait', ms: 500 },
    { do: 'flick', dpPerS: 3000 },
  ],
}
const began = performance.now()
const report = await runChaos({
  context,
  server,
  seed,
  goesOn: () => performance.now() - began < minutes * 60_000,
  project: JSON.stringify({ ...demo, name: 'Chaos', scripts: [gesture], script: 'short' }),
})
await browser.close()
await server.stop()
const counts = new Map<string, number>()
for (const step of report.steps) counts.set(step, (counts.get(step) ?? 0) + 1)
process.stdout.write(
  `seed ${seed}, ${report.steps.length} steps: ${[...counts].map(([name, n]) => `${name} ${n}`).join(', ')}\n`,
)
process.stdout.write(report.broken.length === 0 ? 'all is there\n' : `${report.broken.join('\n')}\n`)
process.exit(report.broken.length === 0 ? 0 : 1)
