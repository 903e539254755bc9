import type { Loading } from '../../core/project/types.ts'
import { lineOrder } from '../../core/loading/line-order.ts'
import { Handle } from '../controls/Handle.tsx'
import { edit, set } from '../store/project-store.ts'
import { MemoryBand } from './MemoryBand.tsx'

interface ZonesProps {
  loading: Loading
  columns: number
  heldCells: number
  heldPath: string
  /** MB of decoded pictures that one screen of this list takes. */
  screenMb: number
}

const screenRows = 3
const rowPx = 25
const gapPx = 3
const pitchPx = rowPx + gapPx
const mostAhead = 12
/**
 * Rows drawn above the screen: the edge beyond which requests are let go is dragged over them; past the last one there
 * is none.
 */
const rowsAbove = 4
const mostHeldRows = 3

/** The list drawn upright with its zones; their edges are handles. */
export function Zones({ loading, columns, heldCells, heldPath, screenMb }: ZonesProps) {
  const { cancel, ahead } = loading
  const aheadRows = ahead.by === 'rows' ? Math.round(ahead.amount) : Math.round(ahead.amount * screenRows)
  const heldRows = Math.min(mostHeldRows, Math.ceil(heldCells / columns))
  const zoneRows = zoneRowsOf(cancel)
  const loadingRows = Math.max(0, zoneRows - heldRows)
  const bands = [
    { name: 'Let go', note: letGoNote(cancel), rows: rowsAbove - loadingRows - heldRows, look: 'beyond' },
    { name: 'Still loading', note: 'has left, and is not let go yet', rows: loadingRows, look: 'kept' },
    { name: 'Held', note: `${heldCells} cells keep theirs`, rows: heldRows, look: 'held' },
    { name: 'On screen', note: 'first call on slots', rows: screenRows, look: 'screen' },
    {
      name: 'Coming up',
      note: `${aheadRows} ${aheadRows === 1 ? 'row' : 'rows'} ahead${ahead.onlyWhenIdle ? ', when nothing on screen waits' : ''}`,
      rows: Math.min(mostAhead, aheadRows),
      look: 'ahead',
    },
    {
      name: 'Beyond',
      note: aheadRows === 0 ? 'nothing is loaded ahead' : 'nothing starts here',
      rows: Math.max(1, 4 - aheadRows),
      look: 'beyond',
    },
  ]
  const places = lineOrder(loading, columns, screenRows, Math.min(mostAhead, aheadRows))
  const placeOf = (look: string, tile: number): number | null => {
    const row = Math.floor(tile / columns) + (look === 'ahead' ? screenRows : 0)
    return look === 'screen' || look === 'ahead'
      ? (places.find((each) => each.row === row && each.column === tile % columns)?.place ?? null)
      : null
  }
  const heights = bands.map((band) => band.rows * pitchPx)
  const tops = heights.map((_, i) => heights.slice(0, i).reduce((sum, height) => sum + height, 0))
  const screenTop = tops[3]!
  const letGo = (rows: number) =>
    edit('let go', [
      {
        op: 'replace',
        path: '/loading/cancel/when',
        value: whenLetGo(rows),
      },
      ...(rows > 0 && rows < rowsAbove
        ? [{ op: 'replace' as const, path: '/loading/cancel/zoneRows', value: rows }]
        : []),
    ])
  return (
    <div>
      <div className="tt-zones" style={{ height: tops.at(-1)! + heights.at(-1)! }}>
        {bands.map(
          (band, i) =>
            band.rows > 0 && (
              <div
                key={band.name}
                className="tt-zone"
                data-look={band.look}
                style={{ top: tops[i], height: heights[i] }}
              >
                <div className="tt-zone-rows" style={{ gridTemplateColumns: `repeat(${columns}, 1fr)` }} aria-hidden>
                  {Array.from({ length: band.rows * columns }, (_, tile) => (
                    <span key={tile} style={{ height: rowPx }}>
                      {placeOf(band.look, tile)}
                    </span>
                  ))}
                </div>
                <div className="tt-zone-word">
                  <strong>{band.name}</strong>
                  <small>{band.note}</small>
                </div>
              </div>
            ),
        )}
        <Handle
          label="Let go: rows beyond the screen"
          axis="y"
          value={zoneRows}
          min={0}
          max={rowsAbove}
          text={letGoNote(cancel)}
          pxPerUnit={-pitchPx}
          style={{ top: screenTop - zoneRows * pitchPx }}
          onChange={letGo}
        />
        <Handle
          label="Held cells, in rows"
          axis="y"
          value={heldRows}
          min={0}
          max={mostHeldRows}
          text={`${heldCells} cells keep their picture`}
          pxPerUnit={-pitchPx}
          far
          style={{ top: screenTop - heldRows * pitchPx }}
          onChange={(rows) => set(heldPath, rows * columns)}
        />
        <Handle
          label="Coming up: rows ahead"
          axis="y"
          value={Math.min(mostAhead, aheadRows)}
          min={0}
          max={mostAhead}
          text={`${aheadRows} rows`}
          pxPerUnit={pitchPx}
          style={{ top: tops.at(-1)! }}
          onChange={(rows) => set('/loading/ahead', { ...ahead, by: 'rows', amount: rows })}
        />
      </div>
      <MemoryBand memoryMb={loading.memoryMb} screenMb={screenMb} />
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

/** How many of the rows above the screen are still loading. */
function zoneRowsOf(cancel: Loading['cancel']): number {
  if (cancel.when === 'never') return rowsAbove
  return cancel.when === 'zone' ? Math.min(rowsAbove - 1, cancel.zoneRows) : 0
}

function whenLetGo(rows: number): Loading['cancel']['when'] {
  if (rows === 0) return 'recycle'
  return rows >= rowsAbove ? 'never' : 'zone'
}
