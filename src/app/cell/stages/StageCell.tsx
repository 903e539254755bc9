import { useEffect, useMemo, useRef, type ReactNode } from 'react'
import { layOutCell } from '../../../core/layout/cell-geometry.ts'
import type { Cell, Item, StageName } from '../../../core/project/types.ts'
import type { Moment } from './moment.ts'
import { CellView } from '../../../live/cell-view.ts'

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
  /** A moment at which the load is stopped here, instead of the stage as such. */
  moment?: Moment | null
  /** This card is where the load is at the moment. */
  current?: boolean
  assetUrl?: (name: string) => string
  onPick?: () => void
  onPictureFile?: (file: File) => void
  /** The slot whose stage it is; the others are settled. */
  slotNumber?: number
  children?: ReactNode
}

/** Share of the bytes shown in the card of the arriving stage. */
export const sampleShare = 0.76
const noAsset = () => ''

/** One stage of a cell, drawn by the same code that draws the live cells. */
export function StageCell({
  cell,
  item,
  stage,
  name,
  note,
  widthDp,
  density,
  scale,
  picture,
  moment = null,
  current = false,
  slotNumber = 0,
  assetUrl = noAsset,
  onPick,
  onPictureFile,
  children,
}: StageCellProps) {
  const host = useRef<HTMLDivElement>(null)
  const geometry = useMemo(
    () =>
      layOutCell(
        cell,
        widthDp,
        item,
        () => (picture ? picture.width / picture.height : null),
        (number) => (number === slotNumber ? stage : 'settled'),
      ),
    [cell, widthDp, item, picture, slotNumber, stage],
  )
  useEffect(() => {
    const view = new CellView(cell, density, assetUrl)
    view.bind(item, geometry)
    view.element.style.width = `${widthDp}px`
    view.element.style.height = `${geometry.heightDp}px`
    for (const number of cell.slots.keys()) {
      if (stage === 'arriving') view.arriving(number, 100 * (moment?.share ?? sampleShare), 100)
      else view.stage(number, stage === 'settled' ? 'waiting' : stage)
      if (stage !== 'settled' || !picture) continue
      const arrived = moment?.arrivedMs ?? null
      view.picture(number, picture, arrived !== null)
      if (arrived !== null) view.hold(number, arrived)
    }
    host.current!.replaceChildren(view.element)
  }, [cell, item, stage, widthDp, density, picture, geometry, moment?.share, moment?.arrivedMs, assetUrl])
  return (
    <figure
      className="tt-stage-card"
      data-stage={stage}
      data-current={current ? '' : undefined}
      onDragOver={(event) => onPictureFile && event.preventDefault()}
      onDrop={(event) => {
        const file = event.dataTransfer.files[0]
        if (!file || !onPictureFile) return
        event.preventDefault()
        onPictureFile(file)
      }}
    >
      <figcaption>
        {onPick ? (
          <button type="button" className="tt-stage-name" onClick={onPick}>
            {name}
          </button>
        ) : (
          <strong>{name}</strong>
        )}
        <span className="tt-quiet">{note}</span>
      </figcaption>
      <div className="tt-stage-room" style={{ width: widthDp * scale, height: geometry.heightDp * scale }}>
        <div ref={host} className="tt-stage-view" style={{ transform: `scale(${scale})` }} aria-hidden />
        {children}
      </div>
    </figure>
  )
}
