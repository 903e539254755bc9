import { describe, expect, it } from 'vitest'
import { K } from '../../src/core/log/event-kinds.ts'
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
  log.write(K.end, 1_000_000, log.text('done'))
  return log
}

const frame = (log: RunLog, t: number) => log.write(K.frame, t, 0, 0, -16_667, 0, 0)
const queue = (log: RunLog, t: number, request: number, rank = 3) => {
  log.write(K.queue, t, request, request)
  log.write(K.rank, t, request, rank)
}
/** Binds a cell to an item and puts it on screen with its picture shown. */
function show(log: RunLog, t: number, cell: number, claim: number): void {
  const key = log.text(`item ${claim}`)
  log.write(K.create, t, cell, 0)
  log.write(K.bind, t, cell, key, claim, cell, 1)
  log.write(K.claim, t, claim, claim, cell, 0, claim)
  frame(log, t + 10)
  log.write(K.place, t + 10, cell, 102_400, 0, 0, cell * 102_400)
  log.write(K.show, t + 10, claim, claim, cell, 0, 0)
  log.write(K.enter, t + 10, cell, 0, key, 0, 10_000)
}

/** A log for each check, which breaks that one and no other. */
const breakers: Record<string, (log: RunLog) => void> = {
  once(log) {
    queue(log, 0, 0)
    log.write(K.ready, 10, 0)
    log.write(K.ready, 20, 0)
  },
  slots(log) {
    for (const request of [0, 1]) {
      queue(log, 0, request)
      log.write(K.start, 10, request, request)
    }
  },
  budget(log) {
    log.write(K.memory, 10, 1000, 0, 0, 0, 1_000_001)
  },
  bytes(log) {
    queue(log, 0, 0)
    log.write(K.start, 10, 0, 0)
    log.write(K.received, 20, 0, 1000)
    log.write(K.received, 30, 0, 1000)
    log.write(K.ready, 40, 0)
  },
  'true-picture'(log) {
    show(log, 0, 0, 0)
    frame(log, 50)
    log.write(K.wrong, 50, 0, 1, 0)
  },
  closed(log) {
    queue(log, 0, 0)
    log.write(K.claim, 0, 0, 0, -1, 0, 0)
    log.write(K.join, 0, 0, 0)
    log.write(K.release, 10, 0, log.text('closed'))
    log.write(K.deliver, 20, 0, log.text('network'), 0)
  },
  rank(log) {
    queue(log, 0, 0, 0)
    frame(log, 50)
    frame(log, 100)
  },
  reuse(log) {
    for (const cell of [0, 1]) {
      log.write(K.create, cell * 100, cell, 0)
      log.write(K.bind, cell * 100, cell, log.text('item'), 0, 0, 1)
      log.write(K.recycle, cell * 100 + 50, cell)
    }
  },
  place(log) {
    for (const cell of [0, 1, 2]) show(log, cell * 100, cell, Math.min(cell, 1))
    frame(log, 400)
    // In the middle of the list, where there is room to move to.
    log.write(K.scroll, 400, 0, 0, 0, log.text('app'), 50_000)
    log.write(K.edit, 410, log.text('insert'), 0, 1, 0, 1)
    frame(log, 500)
    log.write(K.place, 500, 1, 102_400, 0, 0, 302_400)
    frame(log, 600)
    frame(log, 700)
  },
  keep(log) {
    show(log, 0, 0, 0)
    frame(log, 50)
    log.write(K.clear, 50, 0, 0)
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
