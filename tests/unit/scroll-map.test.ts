import { describe, expect, it } from 'vitest'
import { fitAll, nearestLine, plotOf, toX, toY, zoomTime } from '../../src/app/map/map-view.ts'
import { mapClasses, mapOf } from '../../src/core/profile/views/map-data.ts'
import { demoProfile } from '../support/demo-run.ts'

const { facts, ledger, metrics } = demoProfile

describe('the scroll map', () => {
  const map = mapOf(facts, ledger)

  it('has a line for every request, a hole for every wait and a drip for every late frame', () => {
    expect(map.lines.request.length).toBe(facts.requests.length)
    const counted = map.lines.kind.reduce<Record<string, number>>(
      (sum, kind) => ({ ...sum, [mapClasses[kind]!]: (sum[mapClasses[kind]!] ?? 0) + 1 }),
      {},
    )
    for (const name of ['shown', 'cutOff', 'cancelledFree', 'failed'] as const)
      expect([name, counted[name] ?? 0]).toEqual([name, metrics[`requests.${name}`]])
    expect(map.drips.t.length).toBe(metrics['frames.late'])
    expect(map.lines.bytes.reduce((sum, bytes) => sum + bytes, 0)).toBe(metrics['bytes.received'])
  })

  it('finds the line under a pointer, and zooms around it', () => {
    const plot = plotOf(900, 400)
    const view = fitAll(map)
    const i = 40
    const [x, y] = [toX(map.lines.to[i]!, view, plot), toY(map.lines.y[i]!, view, plot)]
    const found = nearestLine(map, x, y, view, plot)!
    expect(Math.abs(toY(map.lines.y[found]!, view, plot) - y)).toBeLessThan(1)
    expect(nearestLine(map, 899, 1, view, plot)).toBeNull()
    const closer = zoomTime(view, 0.5, 2000, map)
    expect(toX(2000, closer, plot)).toBeCloseTo(toX(2000, view, plot), 6)
    expect(closer.toMs - closer.fromMs).toBeCloseTo((view.toMs - view.fromMs) / 2, 6)
  })
})
