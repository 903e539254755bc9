import { describe, expect, it } from 'vitest'
import type { OutsideUpdate } from '../../src/core/list/outside-loads.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { items, plainLink } from '../support/projects.ts'
import { beginRun, runTo } from '../support/run-until.ts'

const wait = (ms: number) => ({ do: 'wait', ms })

describe('a run that somebody has in the hand', () => {
  it('asks for failed pictures again, of one cell or of all, where their slots offer that', () => {
    const faults = [{ match: '*', kind: 'status', status: 503, times: 1 }]
    const simulation = beginRun({ items: items(20), network: { ...plainLink, faults } })
    const { run, log } = simulation
    runTo(simulation, 1000)
    const failed = () => [...run.attachedCells.values()].filter(({ slots }) => slots[0]!.claim?.state === 'failed')
    const all = failed()
    expect(all.length).toBeGreaterThan(4)
    expect(run.retryFailed(all[0]!.id)).toBe(1)
    runTo(simulation, 2500)
    expect(failed()).toHaveLength(all.length - 1)
    expect(run.retryFailed(null)).toBe(all.length - 1)
    runTo(simulation, 5500)
    expect([failed(), run.retryFailed(null)]).toEqual([[], 0])
    const { metrics, checks } = profileRun(log)
    expect(metrics['requests.total']).toBe(2 * all.length)
    expect(checks.filter(({ ok }) => ok === false)).toEqual([])

    const silent = beginRun({
      items: items(20),
      network: { ...plainLink, faults },
      slot: { stages: { failed: { retry: false } } },
    })
    runTo(silent, 1000)
    expect(silent.run.retryFailed(null)).toBe(0)
  })

  it('does what it is told at once, and nothing any more when it is over', () => {
    const simulation = beginRun({ items: items(200), steps: [wait(500), { do: 'jump', row: 80 }, wait(2500)] })
    const { run } = simulation
    runTo(simulation, 900)
    expect(run.place).toEqual({ item: 80, share: 0 })
    run.play({ do: 'edit', op: 'remove', at: 0, count: 30 } as never)
    runTo(simulation, 1300)
    // What is looked at stays: it is thirty places further up.
    expect([run.place!.item, run.feed.count]).toEqual([50, 170])
    while (!simulation.advance(100));
    const { count } = simulation.log
    run.play({ do: 'edit', op: 'remove', at: 0, count: 5 } as never)
    expect([run.ended, simulation.log.count]).toEqual(['done', count])
  })

  it('hears that the network has returned: what has failed without it comes', () => {
    const simulation = beginRun({ items: items(20), network: { ...plainLink, offline: [{ fromMs: 0, toMs: 3000 }] } })
    const { run } = simulation
    runTo(simulation, 1000)
    expect(run.loader.offline).toBe(true)
    // A script's own outage goes on, whatever the real network does.
    run.networkReturned()
    runTo(simulation, 2000)
    const shown = () => [...run.attachedCells.values()].filter(({ slots }) => slots[0]!.shows !== null).length
    expect([run.loader.offline, shown()]).toEqual([true, 0])
    runTo(simulation, 4500)
    expect([run.loader.offline, shown() > 4]).toEqual([false, true])
  })

  it('loads a picture for another use, and reports how it goes', () => {
    const simulation = beginRun({
      items: items(5, 8000),
      network: { ...plainLink, faults: [{ match: '*gone*', kind: 'status', status: 404 }] },
    })
    const { run } = simulation
    const heard = (address: string) => {
      const updates: OutsideUpdate[] = []
      run.loadOutside(address, 48, (each) => updates.push(each))
      return updates
    }
    runTo(simulation, 500)
    const mark = heard('https://b.example.test/mark.jpg')
    const gone = heard('https://b.example.test/gone.jpg')
    runTo(simulation, 2500)
    expect([mark[0], mark.at(-1)]).toMatchObject([{ is: 'waiting' }, { is: 'used', tier: 'network', width: 48 }])
    expect(gone.at(-1)).toMatchObject({ is: 'failed', reason: 'status', status: 404 })
    const again = heard('https://b.example.test/mark.jpg')
    expect(again.at(-1)).toMatchObject({ is: 'used', tier: 'memory', ms: 0 })
    // What is still on its way when the run ends is reported as that.
    const late = heard('https://b.example.test/late.jpg')
    run.end('closed')
    expect(late.at(-1)!.is).toBe('interrupted')
  })
})
