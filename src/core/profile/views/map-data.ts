import { unitsPerDp } from '../../numbers/units.ts'
import type { ClaimFact, Facts } from '../facts/facts.ts'
import { ledgerClasses, type Ledger, type RequestClass } from '../figures/ledger.ts'

/** The classes that a line of the map can have, by number. */
export const mapClasses: readonly RequestClass[] = [...ledgerClasses, 'cancelledFree', 'fromDisk']

/** In the columns of slots and rows, which hold whole numbers: none. */
const noSlot = 255
const noRow = -1

/**
 * What the scroll map draws of one visit, as columns: ms along, dp down. Lines are requests from the moment
 * they were wanted to their end; holes are waits on screen; drips are late frames.
 */
export interface MapData {
  endMs: number
  heightDp: number
  columns: number
  /** Mean height of a row with its gap, dp; used for rows that were never placed. */
  pitchDp: number
  channel: { t: Float64Array; top: Float64Array }
  lines: {
    request: Int32Array
    /** Read by `rowOfLine`; `noRow`: of no row of the list, but of a screen that opened over it, or outside. */
    row: Int32Array
    y: Float32Array
    from: Float64Array
    to: Float64Array
    kind: Uint8Array
    /** The slot that it was first wanted for; `noSlot`: none of a cell's. */
    slot: Uint8Array
    bytes: Float64Array
  }
  holes: { y: Float32Array; height: Float32Array; from: Float64Array; to: Float64Array }
  drips: { t: Float64Array; lateMs: Float64Array }
}

/** The row of the list that a line is for; null: of a screen that opened over the list, or outside it. */
export function rowOfLine({ lines }: Pick<MapData, 'lines'>, at: number): number | null {
  const row = lines.row[at]!
  return row === noRow ? null : row
}

/** The same map with its instants moved by so many ms: to lie over that of a run whose clock began earlier. */
export function movedMap(map: MapData, byMs: number): MapData {
  const moved = (instants: Float64Array) => instants.map((ms) => ms + byMs)
  const { channel, lines, holes, drips } = map
  return {
    ...map,
    endMs: map.endMs + byMs,
    channel: { ...channel, t: moved(channel.t) },
    lines: { ...lines, from: moved(lines.from), to: moved(lines.to) },
    holes: { ...holes, from: moved(holes.from), to: moved(holes.to) },
    drips: { ...drips, t: moved(drips.t) },
  }
}

export function mapOf(facts: Facts, ledger: Ledger): MapData {
  const { log } = facts
  const tops = rowTops(facts)
  const topOf = (row: number) => tops.known.get(row) ?? tops.first + (row - tops.firstRow) * tops.pitch
  const { columns } = log.head.policy
  const requests = facts.requests.filter((request) => request.claims.length > 0)
  /**
   * Position of a claim's item, for one that was never bound the one that it would have if every item had a kind; null:
   * outside the list.
   */
  const standsAt = ({ scope, row, column, index }: ClaimFact) => {
    if (scope !== 'list' || index === null) return null
    const known = row === null ? facts.itemPlaces.get(index) : { row, column }
    return { row: known?.row ?? Math.floor(index / columns), column: known?.column ?? index % columns }
  }
  const places = requests.map(({ claims: [first] }) => standsAt(facts.claims[first!]!))
  const holes = facts.exposures.filter((each) => each.holeTime > 0)
  const late = facts.frames.filter((frame) => frame.presented > frame.due)
  return {
    endMs: facts.endT / 1000,
    heightDp: log.head.heightDp,
    columns,
    pitchDp: tops.pitch,
    channel: {
      t: column(Float64Array, facts.scrolls, (each) => each.t / 1000),
      top: column(Float64Array, facts.scrolls, (each) => each.top / unitsPerDp),
    },
    lines: {
      request: column(Int32Array, requests, (each) => each.id),
      row: column(Int32Array, places, (place) => place?.row ?? noRow),
      y: column(Float32Array, requests, ({ queueT }, at) => {
        const place = places[at]!
        // A line for no row of the list is drawn where the list was when it was wanted.
        if (place === null) return topAt(facts, queueT) / unitsPerDp + log.head.heightDp / 2
        return topOf(place.row) + ((place.column + 0.5) / columns) * tops.pitch
      }),
      from: column(Float64Array, requests, (each) => each.queueT / 1000),
      to: column(Float64Array, requests, (each) => each.endT / 1000),
      kind: column(Uint8Array, requests, (each) => mapClasses.indexOf(ledger.requestClass[each.id]!)),
      slot: column(Uint8Array, requests, (each) => facts.claims[each.claims[0]!]!.slot ?? noSlot),
      bytes: column(Float64Array, requests, (each) =>
        each.transfers.reduce((sum, id) => sum + facts.transfers[id]!.bytes, 0),
      ),
    },
    holes: {
      y: column(Float32Array, holes, (each) => topOf(each.row) + holeOffset(facts, each.geometry, columns).y),
      height: column(Float32Array, holes, (each) => holeOffset(facts, each.geometry, columns).height),
      from: column(Float64Array, holes, (each) => each.enterT / 1000),
      to: column(Float64Array, holes, (each) => (each.shownT ?? each.leaveT) / 1000),
    },
    drips: {
      t: column(Float64Array, late, (frame) => frame.due / 1000),
      lateMs: column(Float64Array, late, (frame) => (frame.presented - frame.due) / 1000),
    },
  }
}

/**
 * A number of each of a list, as a typed array; `from` of these is slow, and a map is made again while a handle moves.
 */
function column<A extends Float64Array | Float32Array | Int32Array | Uint8Array, E>(
  Kind: new (length: number) => A,
  list: readonly E[],
  of: (each: E, at: number) => number,
): A {
  const numbers = new Kind(list.length)
  for (let i = 0; i < list.length; i++) numbers[i] = of(list[i]!, i)
  return numbers
}

/** Position of the window at an instant, 1/1024 dp. */
function topAt({ scrolls }: Facts, t: number): number {
  return scrolls.findLast((each) => each.t <= t)?.top ?? 0
}

/** A slot's band within its row: cells side by side share the row's height, so that each is visible. */
function holeOffset(facts: Facts, geometry: number, columns: number): { y: number; height: number } {
  const { x, y, height } = facts.log.geometries[geometry]!
  if (columns === 1) return { y, height }
  const column = Math.min(columns - 1, Math.floor((x / facts.log.head.widthDp) * columns))
  return { y: y + (column * height) / columns, height: height / columns }
}

function rowTops(facts: Facts): { known: Map<number, number>; first: number; firstRow: number; pitch: number } {
  const known = new Map<number, number>()
  for (const { row, top } of facts.places) known.set(row, top / unitsPerDp)
  const rows = [...known.keys()].sort((a, b) => a - b)
  const firstRow = rows[0] ?? 0
  const lastRow = rows.at(-1) ?? 0
  const first = known.get(firstRow) ?? 0
  const only = (facts.places[0]?.height ?? unitsPerDp * 100) / unitsPerDp
  const pitch = lastRow > firstRow ? (known.get(lastRow)! - first) / (lastRow - firstRow) : only
  return { known, first, firstRow, pitch }
}
