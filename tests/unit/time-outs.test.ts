import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { AssetTable } from '../../src/core/loading/asset-table.ts'
import { Loader } from '../../src/core/loading/loader.ts'
import { RunLog } from '../../src/core/log/run-log.ts'
import { headOf } from '../../src/core/simulate/simulate.ts'
import type { TransferEvents } from '../../src/core/worlds/ports.ts'
import { VirtualClock } from '../../src/core/worlds/virtual/virtual-clock.ts'
import { items, projectOf } from '../support/projects.ts'

const timeoutMs = 500
const limit = timeoutMs * 1000
const target = { width: 100, height: 100, fit: 'cover', decodeAt: { type: 'slot' }, making: [] } as const

/**
 * A transfer as the script has it, µs: when it is asked for, the silence before each of its parts, whether it comes to
 * an end.
 */
interface Script {
  at: number
  silences: number[]
  ends: boolean
}

/** Plays the scripts against the loader: when each transfer was cut, by its number, and how often. */
function cutsOf(scripts: Script[], confirmUs: number) {
  const project = projectOf({
    items: items(1),
    loading: { timeoutMs, fetchSlots: 64, fetchSlotsPerHost: 64, retry: { attempts: 0 }, diskMb: 0 },
  })
  const clock = new VirtualClock()
  const log = new RunLog(
    headOf(project, project.screens[0]!, { world: 'simulated', seed: 1, visit: 'first', script: '' }),
  )
  const table = new AssetTable(log)
  const lastByte = new Map<number, number>()
  const cuts: { transfer: number; at: number }[] = []
  const failed: { asset: number; at: number; reason: string }[] = []
  let network!: TransferEvents
  const nothing = () => undefined
  const loader = new Loader({
    world: {
      clock,
      network: {
        listen: (events) => (network = events),
        start: ({ transfer, asset }) => {
          const { silences, ends } = scripts[asset]!
          lastByte.set(transfer, clock.now())
          network.connected(transfer)
          let at = clock.now()
          const bring = (part: number) => {
            if (cuts.some((cut) => cut.transfer === transfer)) return
            lastByte.set(transfer, clock.now())
            if (part === 0) network.firstByte(transfer, { status: 200, total: 1000, type: 'image/webp', headers: {} })
            // Parts are not reported as they come: whoever wants to know asks for the last byte, as with a drip.
            if (ends && part === silences.length - 1) network.done(transfer, 1000)
          }
          for (const [part, silence] of silences.entries()) clock.at((at += silence), () => bring(part))
        },
        received: () => 0,
        lastByteAt: (transfer) => lastByte.get(transfer)!,
        abort: (transfer, onCut) => {
          cuts.push({ transfer, at: clock.now() })
          if (confirmUs === 0) onCut(0, 0)
          else clock.at(clock.now() + confirmUs, () => onCut(0, 0))
        },
        renew: (_host, answered) => answered(false),
      },
      decoder: { start: nothing, prepareMain: nothing, onMain: nothing as never, drop: nothing, dropBody: nothing },
      disk: { read: nothing, local: nothing, write: nothing, renew: nothing, remove: nothing },
      heap: { churn: nothing, garbage: () => 0, collect: () => null },
    },
    log,
    policy: project.loading,
    granted: project.device.granted,
    seed: 1,
    table,
    epochMs: 0,
    owner: {
      delivered: nothing,
      failed: ({ asset }, reason) => failed.push({ asset, at: clock.now(), reason }),
      arriving: nothing,
      waiting: nothing,
      needFrame: nothing,
    },
  })
  const order = { slot: 0, priority: 1, refused: null }
  for (const [cell, { at }] of scripts.entries()) {
    const href = `https://a.example.test/${cell}.webp`
    const asset = table.asset(href, href, 'a.example.test', { bytes: null, widthPx: null, heightPx: null })
    clock.at(at, () => {
      loader.claim({ ...order, rendition: table.rendition(asset, target), cell, index: cell, row: cell }, true)
      loader.settle()
    })
  }
  while (clock.nextTime() < Infinity) clock.runNext()
  return { cuts, failed }
}

/** The instant by which a script has brought nothing for the time-out; null: it never has. */
function dueOf({ at, silences, ends }: Script): number | null {
  let last = at
  for (const silence of silences) {
    if (silence >= limit) return last + limit
    last += silence
  }
  return ends ? null : last + limit
}

describe('Time-outs', () => {
  const script = fc.record({
    at: fc.nat(2_000_000),
    silences: fc.array(fc.integer({ min: 1, max: 600_000 }), { minLength: 1, maxLength: 5 }),
    ends: fc.boolean(),
  })

  it('each transfer has its own, counted from its last byte, whatever runs beside it and however long a cut takes', () => {
    let cut = 0
    fc.assert(
      fc.property(fc.array(script, { minLength: 1, maxLength: 12 }), fc.nat(800_000), (scripts, confirmUs) => {
        const { cuts, failed } = cutsOf(scripts, confirmUs)
        const due = scripts.map(dueOf).filter((at) => at !== null)
        cut += due.length
        // One cut for each that is due, at its instant: a transfer that waits for its cut to be confirmed is not cut
        // again.
        expect(cuts.map(({ at }) => at)).toEqual(due.toSorted((one, other) => one - other))
        expect(failed.toSorted((one, other) => one.asset - other.asset)).toEqual(
          scripts.flatMap((each, asset) => {
            const at = dueOf(each)
            return at === null ? [] : [{ asset, at: at + confirmUs, reason: 'timeout' }]
          }),
        )
      }),
      { seed: 18, numRuns: 300 },
    )
    expect(cut).toBeGreaterThan(300)
  })
})
