import type { Box } from '../../../core/layout/cell-geometry.ts'
import type { Slot, StageName } from '../../../core/project/types.ts'
import { Handle } from '../../controls/Handle.tsx'
import { set } from '../../store/project-store.ts'
import { sizeFor, snapsFor, type Room } from './frame-size.ts'

interface FrameHandlesProps {
  slot: Slot
  stage: StageName
  path: string
  /** Frame of the picture in its cell in this stage, within its insets, dp. */
  box: Box
  /** Frames of the settled stage and of others, dp: dragged edges snap to them. */
  beside: readonly Box[]
  room: Room
  scale: number
  /** Shows handles for the insets instead of the edges. */
  insets: boolean
}

const sides = ['top', 'right', 'bottom', 'left'] as const

/**
 * The edges of a slot's frame, dragged on the picture itself; in a stage other than settled they set a frame of its
 * own.
 */
export function FrameHandles({ slot, stage, path, box, beside, room, scale, insets }: FrameHandlesProps) {
  const [top, right, bottom, left] = slot.insetDp
  const frame = { widthDp: box.width + left + right, heightDp: box.height + top + bottom }
  const at = {
    left: (box.x - left) * scale,
    top: (box.y - top) * scale,
    width: frame.widthDp * scale,
    height: frame.heightDp * scale,
  }
  if (insets) {
    const places = [
      { left: at.left + at.width / 2, top: box.y * scale },
      { left: (box.x + box.width) * scale, top: at.top + at.height / 2 },
      { left: at.left + at.width / 2, top: (box.y + box.height) * scale },
      { left: box.x * scale, top: at.top + at.height / 2 },
    ]
    return sides.map((side, number) => {
      const across = side === 'left' || side === 'right'
      const value = slot.insetDp[number]!
      const most = Math.floor((across ? frame.widthDp : frame.heightDp) / 2)
      return (
        <Handle
          key={side}
          label={`Inset, ${side}`}
          value={value}
          min={0}
          max={most}
          text={`${value} dp`}
          axis={across ? 'x' : 'y'}
          style={places[number]!}
          pxPerUnit={side === 'top' || side === 'left' ? scale : -scale}
          snaps={snapsFor([0, ...slot.insetDp], most).concat(0)}
          onChange={(dp) =>
            set(
              `${path}/insetDp`,
              slot.insetDp.map((each, i) => (i === number ? dp : each)),
            )
          }
        />
      )
    })
  }
  const put = (dragged: 'width' | 'height', dp: number) => {
    const next = dragged === 'width' ? { ...frame, widthDp: dp } : { ...frame, heightDp: dp }
    if (stage === 'settled') set(`${path}/size`, sizeFor(slot.size, next, dragged, room))
    else set(`${path}/stages/${stage}/frame`, next)
  }
  const format = (dp: number) => `${Math.round(dp * 10) / 10} dp`
  const widths = beside.map(({ width }) => width + left + right)
  const heights = beside.map(({ height }) => height + top + bottom)
  return (
    <>
      <Handle
        label={`Width, ${stage}`}
        value={frame.widthDp}
        min={1}
        max={Math.ceil(room.width)}
        text={format(frame.widthDp)}
        pxPerUnit={scale}
        axis="x"
        style={{ left: at.left + at.width, top: at.top + at.height / 2 }}
        snaps={snapsFor([room.width, frame.heightDp, ...widths], room.width)}
        onChange={(dp) => put('width', dp)}
      />
      <Handle
        label={`Height, ${stage}`}
        value={frame.heightDp}
        min={1}
        max={1200}
        text={format(frame.heightDp)}
        pxPerUnit={scale}
        axis="y"
        style={{ left: at.left + at.width / 2, top: at.top + at.height }}
        snaps={snapsFor([frame.widthDp, ...heights], 1200)}
        onChange={(dp) => put('height', dp)}
      />
    </>
  )
}
