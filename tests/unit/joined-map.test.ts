import { expect, it } from 'vitest'
import { joinMaps } from '../../src/core/profile/views/joined-map.ts'
import type { MapData } from '../../src/core/profile/views/map-data.ts'

/** A map with a request, a wait and a late frame at each of some instants, ms; `bytes` tells the two maps apart. */
function mapAt(endMs: number, instants: readonly number[], bytes: number): MapData {
  const t = Float64Array.from(instants)
  const zeros = new Float32Array(t.length)
  return {
    endMs,
    heightDp: 600,
    columns: 3,
    pitchDp: 100,
    channel: { t, top: t.map((ms) => ms / 10) },
    lines: {
      request: Int32Array.from(instants.keys()),
      row: new Int32Array(t.length),
      y: zeros,
      from: t,
      to: t.map((ms) => ms + 5),
      kind: new Uint8Array(t.length),
      slot: new Uint8Array(t.length),
      bytes: new Float64Array(t.length).fill(bytes),
    },
    holes: { y: zeros, height: zeros, from: t, to: t },
    drips: { t, lateMs: t },
  }
}

it('has what begins at the very instant at which a part ends once, from the map that has all of it', () => {
  // Of the two requests at 30 ms the part has come to the first.
  const joined = joinMaps(mapAt(30, [10, 20, 30], 1), mapAt(50, [10, 20, 30, 30, 40], 2))
  expect([...joined.lines.from]).toEqual([10, 20, 30, 30, 40])
  expect([...joined.lines.bytes]).toEqual([1, 1, 2, 2, 2])
  // Nothing more is reported of the former map.
  expect([...joined.lines.request]).toEqual([0, 1, -2, -2, -2])
  for (const instants of [joined.channel.t, joined.holes.from, joined.drips.t])
    expect([...instants]).toEqual([10, 20, 30, 30, 40])
  expect(joined.endMs).toBe(50)
})

it('keeps the part’s end where the change has made the run longer', () => {
  const joined = joinMaps(mapAt(80, [10, 70], 1), mapAt(50, [10, 40], 2))
  expect([...joined.lines.from]).toEqual([10, 70])
  expect(joined.endMs).toBe(80)
})
