import { describe, expect, it } from 'vitest'
import { RunLog } from '../../src/core/log/run-log.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { headOf } from '../../src/core/simulate/simulate.ts'
import { projectOf } from '../support/projects.ts'

const project = projectOf({
  loading: { fetchSlots: 1, fetchSlotsPerHost: 1, memoryMb: 1, ahead: { onlyWhenIdle: false } },
})

/** A log written by hand: two assets on one host, a rendition of each, a slot of 100 × 100 px. */
function forged(write: (log: RunLog) => void): RunLog {
  const log = new RunLog(
    headOf(project, project.screens[0]!, { world: 'simulated', seed: 1, visit: 'first', script: 'forged' }),
  )
  for (const n of [0, 1]) {
    const address = `https://a.example.test/${n}`
    log.assets.push({ address, host: 'a.example.test', sourceWidth: 100, sourceHeight: 100, bytes: 1000 })
    log.renditions.push({ asset: n, targetWidth: 100, targetHeight: 100, fit: 'cover', width: 100, height: 100 })
  }
  log.geometries.push({ x: 0, y: 0, width: 100, height: 100, widthPx: 100, heightPx: 100, fit: 'cover' })
  write(log)
  log.events.end(1_000_000, { why: 'done' })
  return log
}

const frame = (log: RunLog, t: number) => log.events.frame(t, { due: 0, presented: 0, begin: -16_667, toldLate: 0 })
const queue = (log: RunLog, t: number, request: number, rank = 3) => {
  log.events.queue(t, { request, asset: request })
  log.events.rank(t, { request, class: rank })
}
/** Binds a cell to an item and puts it on screen with its picture shown. */
function show(log: RunLog, t: number, cell: number, claim: number): void {
  const key = log.text(`item ${claim}`)
  log.events.create(t, { cell, kind: 0 })
  log.events.bind(t, { cell, key, index: claim, row: cell, column: 1 })
  log.events.claim(t, { id: claim, rendition: claim, cell, slot: 0, index: claim })
  frame(log, t + 10)
  log.events.place(t + 10, { row: cell, top: cell * 102_400, height: 102_400 })
  log.events.show(t + 10, { claim, rendition: claim, cell, slot: 0, transition: false })
  log.events.enter(t + 10, { cell, slot: 0, key, geometry: 0, area: 10_000 })
}

/** A log for each check, which breaks that one and no other. */
const breakers: Record<string, (log: RunLog) => void> = {
  once(log) {
    queue(log, 0, 0)
    log.events.ready(10, { request: 0 })
    log.events.ready(20, { request: 0 })
  },
  slots(log) {
    for (const request of [0, 1]) {
      queue(log, 0, request)
      log.events.start(10, { request, transfer: request, attempt: 0, conditional: false })
    }
  },
  budget(log) {
    log.events.memory(10, { tier: 1_000_001, resident: 1000, bound: 0, garbage: 0 })
  },
  bytes(log) {
    queue(log, 0, 0)
    log.events.start(10, { request: 0, transfer: 0, attempt: 0, conditional: false })
    log.events.received(20, { transfer: 0, bytes: 1000 })
    log.events.received(30, { transfer: 0, bytes: 1000 })
    log.events.ready(40, { request: 0 })
  },
  'true-picture'(log) {
    show(log, 0, 0, 0)
    frame(log, 50)
    log.events.wrong(50, { cell: 0, rendition: 1, slot: 0 })
  },
  closed(log) {
    queue(log, 0, 0)
    log.events.claim(0, { id: 0, rendition: 0, cell: -1, slot: 0, index: 0 })
    log.events.join(0, { claim: 0, request: 0 })
    log.events.release(10, { id: 0, why: 'closed' })
    log.events.deliver(20, { claim: 0, tier: 'network', rendition: 0 })
  },
  rank(log) {
    queue(log, 0, 0, 0)
    frame(log, 50)
    frame(log, 100)
  },
  reuse(log) {
    for (const cell of [0, 1]) {
      log.events.create(cell * 100, { cell, kind: 0 })
      log.events.bind(cell * 100, { cell, key: log.text('item'), index: 0, row: 0, column: 1 })
      log.events.recycle(cell * 100 + 50, { cell })
    }
  },
  place(log) {
    for (const cell of [0, 1, 2]) show(log, cell * 100, cell, Math.min(cell, 1))
    frame(log, 400)
    // In the middle of the list, where there is room to move to.
    log.events.scroll(400, { top: 50_000, speed: 0, corrected: 0, atBound: false, by: 'app' })
    log.events.edit(410, { op: 'insert', at: 0, count: 1, to: 0, anchor: 1 })
    frame(log, 500)
    log.events.place(500, { row: 1, top: 302_400, height: 102_400 })
    frame(log, 600)
    frame(log, 700)
  },
  keep(log) {
    show(log, 0, 0, 0)
    frame(log, 50)
    log.events.clear(50, { cell: 0, slot: 0 })
  },
}

describe('each check', () => {
  it.each(Object.keys(breakers))('%s falls on a log that breaks it, and on no other', (id) => {
    const { checks } = profileRun(forged(breakers[id]!))
    expect(checks.filter(({ ok }) => ok !== true).map((check) => check.id)).toEqual([id])
  })

  it('holds on a log in which nothing is wrong, and there is one forged log for each', () => {
    const { checks } = profileRun(forged((log) => show(log, 0, 0, 0)))
    expect(checks.filter(({ ok }) => ok !== true)).toEqual([])
    expect(checks.map(({ id }) => id).sort()).toEqual(Object.keys(breakers).sort())
  })
})
