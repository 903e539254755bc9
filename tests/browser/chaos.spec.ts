import { readFile } from 'node:fs/promises'
import { runChaos } from '../support/chaos.ts'
import { freePorts, ServerProcess } from '../support/servers.ts'
import { expect, test } from './fixture.ts'

/** So many steps of the ten minutes that `npm run chaos` makes. */
const mostSteps = 12

test('by chance: the server, storage and tabs come and go, and every change and every run is there', async ({
  context,
}) => {
  const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as object
  const gesture = {
    name: 'short',
    steps: [
      { do: 'wait', ms: 500 },
      { do: 'flick', dpPerS: 3000 },
    ],
  }
  const [port] = await freePorts(1)
  const server = new ServerProcess(port!)
  await server.start()
  try {
    const report = await runChaos({
      context,
      server,
      seed: 11,
      goesOn: (steps) => steps < mostSteps,
      project: JSON.stringify({ ...demo, name: 'Chaos', scripts: [gesture], script: 'short' }),
    })
    expect(report.broken, report.steps.join(', ')).toEqual([])
    expect(report.steps).toHaveLength(mostSteps)
  } finally {
    await server.stop()
  }
})
