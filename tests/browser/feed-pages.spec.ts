import { readFile } from 'node:fs/promises'
import { K } from '../../src/core/log/event-kinds.ts'
import type { RunLog } from '../../src/core/log/run-log.ts'
import { driveLive, expect, keptLog, openWith, simulate, test } from './fixture.ts'

const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as { screens: { id: string }[] }

/** The result of each page that was requested, in order. */
function pagesOf(log: RunLog): [number, string][] {
  const pages: [number, string][] = []
  log.each(({ kind, a, b }, row) => {
    if (kind[row] === K.page) pages.push([a[row]!, log.strings[b[row]!]!])
  })
  return pages
}

test('pages of a feed go by the network, its outages and its faults, in both worlds alike', async ({ page }) => {
  const project = (more: object, steps: object[]) => ({
    ...demo,
    screens: demo.screens.filter(({ id }) => id === 'kiln-log'),
    network: { rttMs: 40, jitterMs: 0, downKbps: 20_000, ...more },
    scripts: [{ name: 'pages', steps }],
    script: 'pages',
  })
  const outage = [
    // The first page is there before the network is gone, on a machine that is held up too.
    { do: 'wait', ms: 4000 },
    { do: 'offline' },
    { do: 'drag', dp: 9000, ms: 3000 },
    { do: 'wait', ms: 500 },
    { do: 'online' },
    { do: 'wait', ms: 2000 },
  ]
  await openWith(page, '/drive', project({}, outage))
  const both = async () => {
    const simulated = pagesOf(await keptLog(page, (await simulate(page)).id))
    const live = pagesOf(await keptLog(page, (await driveLive(page)).id))
    return { simulated, live }
  }
  const { simulated, live } = await both()
  expect(simulated.slice(0, 3)).toEqual([
    [1, 'ok'],
    [2, 'offline'],
    [2, 'ok'],
  ])
  expect(live.slice(0, 3)).toEqual(simulated.slice(0, 3))

  await openWith(
    page,
    '/drive',
    project({ faults: [{ match: '*/feeds/kiln-log?page=1', kind: 'status', status: 503, times: 1 }] }, [
      { do: 'wait', ms: 500 },
    ]),
  )
  const faulty = await both()
  expect(faulty.simulated[0]).toEqual([1, 'status 503'])
  expect(faulty.live[0]).toEqual([1, 'status 503'])
})
