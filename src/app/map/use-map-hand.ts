import { useCallback, useEffect, useRef, type KeyboardEvent, type PointerEvent, type RefObject } from 'react'
import type { MapData } from '../../core/profile/views/map-data.ts'
import { nearestLine, pan, stretchRange, zoomTime, type MapRange, type MapWindow, type PlotArea } from './map-view.ts'
import { offsetAt, type Projection } from './projection.ts'

interface MapHandProps {
  map: MapData
  canvas: RefObject<HTMLCanvasElement | null>
  view: MapWindow
  plot: PlotArea
  projection: Projection
  /** The line that is selected. */
  at: number | null
  range: MapRange | null
  onRange: ((range: MapRange | null) => void) | undefined
  onSelect: (request: number | null) => void
  onCursor: ((ms: number) => void) | undefined
  /** A line that the pointer is over. */
  onHover: (line: number | null) => void
  /** The new view; null: all. */
  onZoom: (view: MapWindow | null) => void
}

interface Place {
  x: number
  y: number
}

/** A press that moves less than this is a click, px. */
const clickPx = 4
/** Fingers nearer than this do not give a usable distance, px. */
const leastApartPx = 8

/**
 * Gestures on the map: one pointer pans (with the shift key it selects a part), two fingers zoom the time, a click
 * selects; the wheel zooms; keys do all of it.
 */
export function useMapHand(props: MapHandProps) {
  const { map, canvas, view, plot, projection, at, range, onRange, onSelect, onCursor, onHover, onZoom } = props
  const drag = useRef<{ moved: boolean; select: { ms: number; dp: number } | null } | null>(null)
  /** Position of each pressed pointer. */
  const down = useRef(new Map<number, Place>())
  const msAt = (x: number) => view.fromMs + ((x - plot.left) / plot.width) * (view.toMs - view.fromMs)
  const placeOf = ({ nativeEvent: { offsetX, offsetY } }: PointerEvent) => ({
    ms: msAt(offsetX),
    dp: view.fromDp + ((offsetY - plot.top) / plot.height) * (view.toDp - view.fromDp),
  })
  /** The view as the gesture has left it: two fingers move between two renderings. */
  const latestView = useRef(view)
  useEffect(() => {
    latestView.current = view
  }, [view])
  const show = (next: MapWindow) => onZoom((latestView.current = next))
  const moved = (dx: number, dy: number) => {
    const { fromMs, toMs, fromDp, toDp } = latestView.current
    return pan(latestView.current, (-dx / plot.width) * (toMs - fromMs), (-dy / plot.height) * (toDp - fromDp))
  }

  const onWheel = useCallback(
    (event: WheelEvent) => {
      event.preventDefault()
      const ms = view.fromMs + ((event.offsetX - plot.left) / plot.width) * (view.toMs - view.fromMs)
      if (event.shiftKey) onZoom(pan(view, ((event.deltaY + event.deltaX) / plot.width) * (view.toMs - view.fromMs), 0))
      else onZoom(zoomTime(view, event.deltaY > 0 ? 1.2 : 1 / 1.2, ms, map))
    },
    [view, plot, map, onZoom],
  )
  useEffect(() => {
    const element = canvas.current!
    element.addEventListener('wheel', onWheel, { passive: false })
    return () => element.removeEventListener('wheel', onWheel)
  }, [canvas, onWheel])

  const pick = (event: PointerEvent) =>
    nearestLine(map, event.nativeEvent.offsetX, event.nativeEvent.offsetY, view, plot, (ms) =>
      offsetAt(map, projection, ms),
    )

  const select = (event: PointerEvent, from: { ms: number; dp: number }) => {
    const to = placeOf(event)
    // The distance projection selects a time span, whatever the position.
    const places = projection === 'rows' ? [from.dp, to.dp] : [-Infinity, Infinity]
    onRange?.({
      fromMs: Math.min(from.ms, to.ms),
      toMs: Math.max(from.ms, to.ms),
      fromDp: Math.min(...places),
      toDp: Math.max(...places),
    })
  }

  /** Two fingers: what is between them stays between them. */
  const pinch = (event: PointerEvent, before: Place, now: Place) => {
    const other = [...down.current].find(([id]) => id !== event.pointerId)![1]
    const apart = (one: Place) => Math.max(leastApartPx, Math.hypot(one.x - other.x, one.y - other.y))
    const { left } = event.currentTarget.getBoundingClientRect()
    const follows = moved((now.x - before.x) / 2, (now.y - before.y) / 2)
    const middle =
      follows.fromMs + (((now.x + other.x) / 2 - left - plot.left) / plot.width) * (follows.toMs - follows.fromMs)
    show(zoomTime(follows, apart(before) / apart(now), middle, map))
  }

  const onPointerMove = (event: PointerEvent) => {
    const before = down.current.get(event.pointerId)
    const held = drag.current
    if (!before || !held) return onHover(pick(event))
    const now = { x: event.clientX, y: event.clientY }
    if (!held.moved && Math.abs(now.x - before.x) + Math.abs(now.y - before.y) < clickPx) return
    held.moved = true
    down.current.set(event.pointerId, now)
    if (down.current.size > 1) pinch(event, before, now)
    else if (held.select && onRange) select(event, held.select)
    else show(moved(now.x - before.x, now.y - before.y))
  }

  const release = (event: PointerEvent) => {
    down.current.delete(event.pointerId)
    if (down.current.size === 0) drag.current = null
  }

  const latest = useRef(at)
  useEffect(() => {
    latest.current = at
  }, [at])

  /** Counts from the request that was reached last, which may not have been drawn yet. */
  const step = (by: number) => {
    const { request } = map.lines
    if (request.length === 0) return
    latest.current = latest.current === null ? 0 : Math.max(0, Math.min(request.length - 1, latest.current + by))
    onSelect(request[latest.current]!)
  }

  const onKeyDown = (event: KeyboardEvent) => {
    const middle = (view.fromMs + view.toMs) / 2
    const stretch = event.shiftKey ? stretches[event.key] : undefined
    if (stretch && onRange) {
      const next = stretchRange(range, view, at === null ? middle : map.lines.from[at]!, ...stretch)
      onRange(projection === 'rows' ? next : { ...next, fromDp: -Infinity, toDp: Infinity })
    } else if (event.key === 'ArrowRight' || event.key === 'ArrowDown') step(1)
    else if (event.key === 'ArrowLeft' || event.key === 'ArrowUp') step(-1)
    else if (event.key === '+' || event.key === '=') onZoom(zoomTime(view, 1 / 1.4, middle, map))
    else if (event.key === '-') onZoom(zoomTime(view, 1.4, middle, map))
    else if (event.key === '0' || event.key === 'Home') onZoom(null)
    else if (event.key === 'Escape' && range) onRange?.(null)
    else if (event.key === 'Escape') onSelect(null)
    else return
    event.preventDefault()
    event.stopPropagation()
  }

  return {
    onPointerDown: (event: PointerEvent) => {
      event.currentTarget.setPointerCapture(event.pointerId)
      down.current.set(event.pointerId, { x: event.clientX, y: event.clientY })
      // A second finger turns a press into a pinch.
      drag.current =
        down.current.size > 1
          ? { moved: true, select: null }
          : { moved: false, select: event.shiftKey ? placeOf(event) : null }
    },
    onPointerMove,
    onPointerUp: (event: PointerEvent) => {
      const isClick = drag.current !== null && !drag.current.moved
      release(event)
      if (!isClick) return
      const { offsetX, offsetY } = event.nativeEvent
      // Beneath the plot is only time: a click there sets the cursor.
      if (onCursor && offsetY > plot.top + plot.height) onCursor(msAt(offsetX))
      else {
        const line = pick(event)
        onSelect(line === null ? null : map.lines.request[line]!)
      }
    },
    onPointerCancel: release,
    onPointerLeave: () => onHover(null),
    onDoubleClick: () => onZoom(null),
    onKeyDown,
  }
}

const stretches: Partial<Record<string, [number, number]>> = {
  ArrowRight: [1, 0],
  ArrowLeft: [-1, 0],
  ArrowDown: [0, 1],
  ArrowUp: [0, -1],
}
