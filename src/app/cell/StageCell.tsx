import { useEffect, useRef, type ReactNode } from 'react'
import { layOutCell } from '../../core/layout/cell-geometry.ts'
import type { Cell, Item, StageName } from '../../core/project/types.ts'
import { CellView } from '../../live/cell-view.ts'

interface StageCellProps {
  cell: Cell
  item: Item
  stage: StageName
  name: string
  note: string
  widthDp: number
  density: number
  /** px of the card for one dp. */
  scale: number
  picture: ImageBitmap | null
  children?: ReactNode
}

/** One stage of a cell, drawn by the same code that draws the live cells. */
export function StageCell({ cell, item, stage, name, note, widthDp, density, scale, picture, children }: StageCellProps) {
  const host = useRef<HTMLDivElement>(null)
  const geometry = layOutCell(cell, widthDp, item, () => (picture ? picture.width / picture.height : null))
  useEffect(() => {
    const view = new CellView(cell, density, () => '')
    view.bind(item, layOutCell(cell, widthDp, item, () => (picture ? picture.width / picture.height : null)))
    view.element.style.width = `${widthDp}px`
    view.element.style.height = `${geometry.heightDp}px`
    for (const number of cell.slots.keys()) {
      if (stage === 'arriving') view.arriving(number, 76, 100)
      else view.stage(number, stage === 'settled' ? 'waiting' : stage)
      if (stage === 'settled' && picture) view.picture(number, picture, false)
    }
    host.current!.replaceChildren(view.element)
  }, [cell, item, stage, widthDp, density, picture, geometry.heightDp])
  return (
    <figure className="tt-stage-card" data-stage={stage}>
      <figcaption><strong>{name}</strong><span className="tt-quiet">{note}</span></figcaption>
      <div className="tt-stage-room" style={{ width: widthDp * scale, height: geometry.heightDp * scale }}>
        <div ref={host} className="tt-stage-view" style={{ transform: `scale(${scale})` }} aria-hidden />
        {children}
      </div>
    </figure>
  )
}
