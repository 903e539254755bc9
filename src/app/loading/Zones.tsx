import type { Loading } from '../../core/project/types.ts'
import { lineOrder } from '../../core/loading/line-order.ts'
import { Handle } from '../controls/Handle.tsx'
import { set } from '../store/project-store.ts'

interface ZonesProps {
  loading: Loading
  columns: number
  heldCells: number
  heldPath: string
  /** How many pictures of the list's size the memory tier has room for. */
  keptPictures: number
}

const screenRows = 3
const rowPx = 30
const gapPx = 4
const mostAhead = 12
const mostHeldRows = 4

/** The list drawn upright with its zones; their edges are handles. */
export function Zones({ loading, columns, heldCells, heldPath, keptPictures }: ZonesProps) {
  const { cancel, ahead } = loading
  const aheadRows = ahead.by === 'rows' ? Math.round(ahead.amount) : Math.round(ahead.amount * screenRows)
  const heldRows = Math.ceil(heldCells / columns)
  const zone = cancel.when === 'zone' ? cancel.zoneRows : 0
  const bands = [
    { name: 'Let go', note: letGoNote(cancel), rows: 1, look: 'beyond' },
    { name: 'Held', note: heldCells === 0 ? 'no cell keeps its picture' : `${heldCells} cells keep theirs`, rows: Math.min(mostHeldRows, Math.max(heldRows, zone)), look: 'held' },
    { name: 'On screen', note: 'first call on slots', rows: screenRows, look: 'screen' },
    { name: 'Coming up', note: aheadRows === 0 ? 'nothing is asked for early' : `${aheadRows} ${aheadRows === 1 ? 'row' : 'rows'} ahead${ahead.onlyWhenIdle ? ', when nothing on screen waits' : ''}`, rows: Math.min(mostAhead, aheadRows), look: 'ahead' },
    { name: 'Beyond', note: 'nothing starts here', rows: Math.max(1, 5 - aheadRows), look: 'beyond' },
  ]
  const places = lineOrder(loading, columns, screenRows, Math.min(mostAhead, aheadRows))
  const placeOf = (look: string, tile: number): number | null => {
    const row = Math.floor(tile / columns) + (look === 'ahead' ? screenRows : 0)
    return look === 'screen' || look === 'ahead' ? (places.find((each) => each.row === row && each.column === tile % columns)?.place ?? null) : null
  }
  const keptRows = keptPictures / columns
  const heights = bands.map((band) => band.rows * (rowPx + gapPx))
  const tops = heights.map((_, i) => heights.slice(0, i).reduce((sum, height) => sum + height, 0))
  // The budget as a band around the screen, as far as the drawing reaches.
  const middle = tops[2]! + heights[2]! / 2
  const reach = (keptRows * (rowPx + gapPx)) / 2
  const memory = { top: Math.max(0, middle - reach), bottom: Math.min(tops.at(-1)! + heights.at(-1)!, middle + reach) }
  return (
    <div className="tt-zones" style={{ height: tops.at(-1)! + heights.at(-1)! }}>
      {bands.map((band, i) => (
        <div key={band.name} className="tt-zone" data-look={band.look} style={{ top: tops[i], height: heights[i] }}>
          <div className="tt-zone-rows" style={{ gridTemplateColumns: `repeat(${columns}, 1fr)` }} aria-hidden>
            {Array.from({ length: band.rows * columns }, (_, tile) => <span key={tile} style={{ height: rowPx }}>{placeOf(band.look, tile)}</span>)}
          </div>
          <div className="tt-zone-word"><strong>{band.name}</strong><small>{band.note}</small></div>
        </div>
      ))}
      <div className="tt-zone-memory" aria-hidden style={{ top: memory.top, height: memory.bottom - memory.top }} title={`Memory holds ${(keptRows / screenRows).toFixed(1)} such screens`} />
      {cancel.when === 'zone' && (
        <Handle
          label="Let go: rows beyond the screen" axis="y" value={Math.min(mostHeldRows, zone)} min={0} max={mostHeldRows} text={`${zone} rows`} pxPerUnit={-(rowPx + gapPx)}
          style={{ top: tops[1]! }} onChange={(rows) => set('/loading/cancel/zoneRows', rows)}
        />
      )}
      <Handle
        label="Held cells, in rows" axis="y" value={Math.min(mostHeldRows, heldRows)} min={0} max={mostHeldRows} text={`${heldCells} cells`} pxPerUnit={rowPx + gapPx}
        style={{ top: tops[2]! }} onChange={(rows) => set(heldPath, rows * columns)}
      />
      <Handle
        label="Coming up: rows ahead" axis="y" value={Math.min(mostAhead, aheadRows)} min={0} max={mostAhead} text={`${aheadRows} rows`} pxPerUnit={rowPx + gapPx}
        style={{ top: tops[4]! }} onChange={(rows) => set('/loading/ahead', { ...ahead, by: 'rows', amount: rows })}
      />
    </div>
  )
}

function letGoNote(cancel: Loading['cancel']): string {
  const unless = cancel.keepAbove < 1 ? ` unless ${Math.round(cancel.keepAbove * 100)} % is in` : ''
  switch (cancel.when) {
    case 'recycle':
      return `cut off at recycle${unless}`
    case 'zone':
      return `cut off ${cancel.zoneRows} rows beyond${unless}`
    case 'never':
      return 'nothing is ever cut off'
  }
}
