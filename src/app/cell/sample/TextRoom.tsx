import { useMemo } from 'react'
import { textAt } from '../../../core/feed/json-pointer.ts'
import { lineHeight, type CellGeometry } from '../../../core/layout/cell-geometry.ts'
import type { Cell, Item } from '../../../core/project/types.ts'

interface Room {
  at: string
  estimatedDp: number
  realDp: number
}

/** Narrower than this nothing can be read, dp. */
const leastDp = 1

/**
 * Texts whose real height differs from the one that the cell was laid out for: spare room, or clipped lines; and
 * pictures that leave them no room.
 */
export function TextRoom({ cell, item, geometry }: { cell: Cell; item: Item; geometry: CellGeometry }) {
  const rooms = useMemo(() => measure(cell, item, geometry), [cell, item, geometry])
  const off = rooms.filter(({ estimatedDp, realDp }) => Math.abs(estimatedDp - realDp) > 1)
  if (rooms.length === 0) return null
  if (geometry.texts.every(({ width }) => width < leastDp))
    return (
      <strong className="tt-text-room" role="status">
        The picture takes the whole row: 0 dp are left for the texts. Make it narrower, or arrange it on top.
      </strong>
    )
  return (
    <span className="tt-quiet tt-text-room" role="status">
      {off.length === 0
        ? `Texts take the ${Math.round(rooms.reduce((sum, { realDp }) => sum + realDp, 0))} dp they were laid out for.`
        : off
            .map(
              ({ at, estimatedDp, realDp }) =>
                `${at}: ${Math.round(estimatedDp)} dp laid out, ${Math.round(realDp)} dp real, ${Math.round(Math.abs(realDp - estimatedDp))} dp ${realDp > estimatedDp ? 'clipped' : 'spare'}`,
            )
            .join('; ')}
    </span>
  )
}

/** The heights of the cell's texts in this browser's own font, at most as many lines as they may have. */
function measure(cell: Cell, item: Item, geometry: CellGeometry): Room[] {
  const probe = document.createElement('div')
  probe.className = 'tt-cell tt-probe'
  document.body.append(probe)
  const rooms = cell.texts.flatMap((line, i): Room[] => {
    const box = geometry.texts[i]
    if (!box) return []
    const text = document.createElement('div')
    text.className = 'tt-text'
    text.dir = 'auto'
    Object.assign(text.style, {
      position: 'static',
      display: 'block',
      width: `${box.width}px`,
      fontSize: `${line.sizeDp}px`,
      lineHeight: String(lineHeight),
    })
    text.textContent = textAt(item, line.at) ?? ''
    probe.append(text)
    const realDp =
      text.textContent === ''
        ? box.height
        : Math.min(text.getBoundingClientRect().height, line.lines * line.sizeDp * lineHeight)
    return [{ at: line.at, estimatedDp: box.height, realDp }]
  })
  probe.remove()
  return rooms
}
