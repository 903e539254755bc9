import type { Box } from '../../../core/layout/cell-geometry.ts'
import type { Slot } from '../../../core/project/types.ts'
import { Handle } from '../../controls/Handle.tsx'
import { set } from '../../store/project-store.ts'
import { FocalPoint } from './FocalPoint.tsx'
import { FrameHandles } from './FrameHandles.tsx'
import type { Room } from './frame-size.ts'

/** What can be dragged on a picture. */
export type Grips = 'edges' | 'insets'

interface SettledGripsProps {
  slot: Slot
  path: string
  /** Frame of the settled picture in its cell, within its insets, dp. */
  box: Box
  beside: readonly Box[]
  room: Room
  scale: number
  grips: Grips
  heightDp: number
  gapDp: number
  onGap: (dp: number) => void
}

/**
 * What is dragged on the settled picture: its frame, corners and focal point, or its insets and the gap below its cell.
 */
export function SettledGrips(props: SettledGripsProps) {
  const { slot, path, box, scale, grips, heightDp, gapDp, onGap, beside, room } = props
  const frame = (
    <FrameHandles {...{ slot, path, box, beside, room, scale }} stage="settled" insets={grips === 'insets'} />
  )
  if (grips === 'insets') {
    const below = (heightDp + gapDp) * scale
    return (
      <>
        {frame}
        <div className="tt-neighbour" aria-hidden style={{ top: below }} />
        <Handle
          label="Gap below"
          value={gapDp}
          min={0}
          max={200}
          text={`${gapDp} dp`}
          pxPerUnit={scale}
          axis="y"
          snaps={[0, 4, 8, 12, 16, 24]}
          style={{ left: 12, top: below }}
          onChange={onGap}
        />
      </>
    )
  }
  const corner = slot.cornersDp[0]
  return (
    <>
      {frame}
      {!slot.circle && (
        <Handle
          label="Corner radius"
          value={Math.round(corner)}
          min={0}
          max={Math.floor(Math.min(box.width, box.height) / 2)}
          text={`${corner} dp`}
          pxPerUnit={scale}
          axis="x"
          onChange={(dp) => set(`${path}/cornersDp`, [dp, dp, dp, dp])}
          style={{ left: (box.x + corner) * scale, top: box.y * scale }}
        />
      )}
      <FocalPoint
        at={slot.position}
        box={{ left: box.x * scale, top: box.y * scale, width: box.width * scale, height: box.height * scale }}
        onChange={(to) => set(`${path}/position`, to)}
      />
    </>
  )
}
