import { useCallback, useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import { mapClasses, type MapData } from '../../core/profile/views/map-data.ts'
import { Handle } from '../controls/Handle.tsx'
import { useTheme } from '../theme/follow-theme.ts'
import { drawMap } from './draw-map.ts'
import { FarView } from './far-view.ts'
import { classWords } from './map-words.ts'
import {
  fitAll,
  nearestLine,
  pan,
  plotOf,
  stretchRange,
  toX,
  toY,
  zoomTime,
  type MapRange,
  type MapWindow,
} from './map-view.ts'
import type { MapZones } from './map-paint.ts'
import { fitDistance, offsetAt, type Projection } from './projection.ts'

interface ScrollMapProps {
  map: MapData
  ghost: MapData | null
  hidden?: ReadonlySet<string>
  /** The selected request's number, −1 for none. */
  selected: number
  onSelect: (request: number) => void
  /** Findings, where they show. */
  pins?: readonly { id: string; ms: number; label: string; what: string }[]
  onPin?: (id: string) => void
  projection?: Projection
  /** Lines that are drawn, of the map and of its ghost; null: all. */
  only?: Uint8Array | null
  onlyGhost?: Uint8Array | null
  /** The part that is selected, and what is told when another is dragged with the shift key. */
  range?: MapRange | null
  onRange?: (range: MapRange | null) => void
  /** Zones of the run's policy; where the screen lies straight the edge of what comes up can be dragged. */
  zones?: MapZones | null
  edge?: { rows: number; most: number; onChange: (rows: number) => void } | null
  /** Where the playback stands; null: nothing is played. */
  cursorMs?: number | null
  /** The cursor is put to a moment. */
  onCursor?: (ms: number) => void
}

const noPins: readonly never[] = []
const nothingHidden: ReadonlySet<string> = new Set()

/** Time against row: the gesture as a channel, every request as a line, late frames as drips. */
export function ScrollMap({
  map,
  ghost,
  hidden = nothingHidden,
  selected,
  onSelect,
  pins = noPins,
  onPin,
  cursorMs = null,
  onCursor,
  projection = 'rows',
  range = null,
  onRange,
  only = null,
  onlyGhost = null,
  zones = null,
  edge = null,
}: ScrollMapProps) {
  const box = useRef<HTMLDivElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  const far = useRef<FarView | null>(null)
  const [size, setSize] = useState({ width: 800, height: 200 })
  const whole = useMemo(() => (projection === 'rows' ? fitAll(map) : fitDistance(map)), [map, projection])
  // A part that was zoomed into is one of its projection.
  const [held, setHeld] = useState<{ window: MapWindow; projection: Projection } | null>(null)
  const zoomed = held?.projection === projection ? held.window : null
  const setZoomed = useCallback((window: MapWindow | null) => setHeld(window && { window, projection }), [projection])
  const [hover, setHover] = useState(-1)
  const drag = useRef<{ x: number; y: number; moved: boolean; select: { ms: number; dp: number } | null } | null>(null)
  const placeOf = (event: PointerEvent) => {
    const { offsetX, offsetY } = event.nativeEvent
    return {
      ms: view.fromMs + ((offsetX - plot.left) / plot.width) * (view.toMs - view.fromMs),
      dp: view.fromDp + ((offsetY - plot.top) / plot.height) * (view.toDp - view.fromDp),
    }
  }
  const view = zoomed ?? whole
  const plot = plotOf(size.width, size.height)
  const rowPx = (map.pitchDp / (view.toDp - view.fromDp)) * plot.height
  const edgeY = edge ? toY(map.heightDp, view, plot) + edge.rows * rowPx : -1
  const at = useMemo(() => map.lines.request.indexOf(selected), [map, selected])
  const told = useMemo(() => summary(map), [map])
  const theme = useTheme()

  useEffect(() => {
    const observer = new ResizeObserver(([entry]) =>
      setSize({ width: entry!.contentRect.width, height: entry!.contentRect.height }),
    )
    observer.observe(box.current!)
    return () => observer.disconnect()
  }, [])

  useEffect(() => {
    // In the next frame: several changes are drawn once, and not in the task that has rendered the rest of the page.
    const frame = requestAnimationFrame(() => {
      const element = canvas.current
      // The view may be gone by the time of this frame: React cleans up after it was taken off the page.
      if (!element) return
      const ratio = window.devicePixelRatio
      element.width = Math.round(size.width * ratio)
      element.height = Math.round(size.height * ratio)
      const context = element.getContext('2d')!
      context.scale(ratio, ratio)
      const style = getComputedStyle(element)
      drawMap(context, {
        map,
        ghost,
        view,
        plot: plotOf(size.width, size.height),
        ...size,
        selected: at,
        hidden,
        projection,
        range,
        only,
        onlyGhost,
        zones,
        colour: (token) => style.getPropertyValue(token),
        far: (far.current ??= new FarView()),
      })
    })
    return () => cancelAnimationFrame(frame)
    // The colours are read from the style sheet, which follows the theme.
  }, [map, ghost, view, size, at, hidden, theme, projection, range, only, onlyGhost, zones])

  const onWheel = useCallback(
    (event: WheelEvent) => {
      event.preventDefault()
      const area = plotOf(size.width, size.height)
      const ms = view.fromMs + ((event.offsetX - area.left) / area.width) * (view.toMs - view.fromMs)
      if (event.shiftKey)
        setZoomed(pan(view, ((event.deltaY + event.deltaX) / area.width) * (view.toMs - view.fromMs), 0))
      else setZoomed(zoomTime(view, event.deltaY > 0 ? 1.2 : 1 / 1.2, ms, map))
    },
    [view, size, map, setZoomed],
  )
  useEffect(() => {
    const element = canvas.current!
    element.addEventListener('wheel', onWheel, { passive: false })
    return () => element.removeEventListener('wheel', onWheel)
  }, [onWheel])

  const pick = (event: PointerEvent) =>
    nearestLine(map, event.nativeEvent.offsetX, event.nativeEvent.offsetY, view, plot, (ms) =>
      offsetAt(map, projection, ms),
    )

  const onMove = (event: PointerEvent) => {
    const from = drag.current
    if (!from) {
      setHover(pick(event))
      return
    }
    const dx = event.clientX - from.x
    const dy = event.clientY - from.y
    if (!from.moved && Math.abs(dx) + Math.abs(dy) < 4) return
    drag.current = { ...from, x: event.clientX, y: event.clientY, moved: true }
    if (from.select && onRange) {
      const to = placeOf(event)
      // The distance projection selects a while, whatever its place.
      const places = projection === 'rows' ? [from.select.dp, to.dp] : [-Infinity, Infinity]
      onRange({
        fromMs: Math.min(from.select.ms, to.ms),
        toMs: Math.max(from.select.ms, to.ms),
        fromDp: Math.min(...places),
        toDp: Math.max(...places),
      })
      return
    }
    setZoomed(
      pan(view, (-dx / plot.width) * (view.toMs - view.fromMs), (-dy / plot.height) * (view.toDp - view.fromDp)),
    )
  }

  const latest = useRef(at)
  useEffect(() => {
    latest.current = at
  }, [at])

  /** Steps from the request that was stepped to last, which may not have been drawn yet. */
  const step = (by: number) => {
    const { request } = map.lines
    latest.current = Math.max(0, Math.min(request.length - 1, latest.current + by))
    onSelect(request[latest.current] ?? -1)
  }

  const onKey = (event: KeyboardEvent) => {
    const middle = (view.fromMs + view.toMs) / 2
    const stretch: [number, number] | undefined = event.shiftKey
      ? ({ ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowDown: [0, 1], ArrowUp: [0, -1] }[event.key] as
          [number, number] | undefined)
      : undefined
    if (stretch && onRange) {
      const next = stretchRange(range, view, at < 0 ? middle : map.lines.from[at]!, ...stretch)
      onRange(projection === 'rows' ? next : { ...next, fromDp: -Infinity, toDp: Infinity })
    } else if (event.key === 'ArrowRight' || event.key === 'ArrowDown') step(1)
    else if (event.key === 'ArrowLeft' || event.key === 'ArrowUp') step(-1)
    else if (event.key === '+' || event.key === '=') setZoomed(zoomTime(view, 1 / 1.4, middle, map))
    else if (event.key === '-') setZoomed(zoomTime(view, 1.4, middle, map))
    else if (event.key === '0' || event.key === 'Home') setZoomed(null)
    else if (event.key === 'Escape' && range) onRange?.(null)
    else if (event.key === 'Escape') onSelect(-1)
    else return
    event.preventDefault()
    event.stopPropagation()
  }

  return (
    <div className="tt-map" ref={box}>
      <canvas
        ref={canvas}
        tabIndex={0}
        role="img"
        aria-label={told}
        style={{ width: '100%', height: '100%' }}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId)
          drag.current = {
            x: event.clientX,
            y: event.clientY,
            moved: false,
            select: event.shiftKey ? placeOf(event) : null,
          }
        }}
        onPointerMove={onMove}
        onPointerUp={(event) => {
          const click = drag.current && !drag.current.moved
          drag.current = null
          if (!click) return
          const { offsetX, offsetY } = event.nativeEvent
          // Beneath the plot is time alone: a click there puts the cursor.
          if (onCursor && offsetY > plot.top + plot.height)
            onCursor(view.fromMs + ((offsetX - plot.left) / plot.width) * (view.toMs - view.fromMs))
          else onSelect(map.lines.request[pick(event)] ?? -1)
        }}
        onPointerLeave={() => setHover(-1)}
        onDoubleClick={() => setZoomed(null)}
        onKeyDown={onKey}
      />
      {cursorMs !== null && cursorMs >= view.fromMs && cursorMs <= view.toMs && (
        <div
          className="tt-cursor"
          aria-hidden
          style={{ left: toX(cursorMs, view, plot), top: plot.top, height: size.height - plot.top - 16 }}
        />
      )}
      {pins
        .filter(({ ms }) => ms >= view.fromMs && ms <= view.toMs)
        .map(({ id, ms, label, what }) => (
          <button
            key={id}
            type="button"
            className="tt-pin tt-map-pin"
            style={{ left: toX(ms, view, plot) }}
            aria-label={`Finding ${label}: ${what}`}
            data-explain={what}
            onClick={() => onPin?.(id)}
          >
            {label}
          </button>
        ))}
      {projection === 'distance' && edge && edgeY >= plot.top && edgeY <= plot.top + plot.height && (
        <>
          <div
            className="tt-map-edge"
            aria-hidden
            style={{ top: edgeY, left: plot.left, right: size.width - plot.left - plot.width }}
          />
          <Handle
            label="Coming up, on the map: rows ahead"
            axis="y"
            value={edge.rows}
            min={0}
            max={edge.most}
            text={`${edge.rows} rows ahead`}
            pxPerUnit={rowPx}
            style={{ top: edgeY, left: plot.left + plot.width - 18 }}
            onChange={edge.onChange}
          />
        </>
      )}
      <div className="tt-map-word" aria-live="polite">
        {sentence(map, hover >= 0 ? hover : at)}
      </div>
      {zoomed && (
        <button type="button" className="tt-fit" onClick={() => setZoomed(null)}>
          Fit
        </button>
      )}
    </div>
  )
}

function sentence(map: MapData, at: number): string {
  if (at < 0) return ''
  const { lines } = map
  const { name } = classWords[mapClasses[lines.kind[at]!]!]
  const seconds = (ms: number) => `${(ms / 1000).toFixed(2)} s`
  const bytes = lines.bytes[at]! > 0 ? `, ${Math.round(lines.bytes[at]! / 1000)} kB` : ''
  const where = lines.row[at]! < 0 ? 'outside the list' : `row ${lines.row[at]}`
  return `Request ${lines.request[at]}, ${where}: wanted at ${seconds(lines.from[at]!)}, ${name} at ${seconds(lines.to[at]!)}${bytes}.`
}

function summary(map: MapData): string {
  const counts = mapClasses
    .map((name, number) => ({
      name: classWords[name].name,
      count: map.lines.kind.filter((kind) => kind === number).length,
    }))
    .filter(({ count }) => count > 0)
    .map(({ name, count }) => `${count} ${name}`)
  return `Scroll map of ${(map.endMs / 1000).toFixed(1)} seconds: ${map.lines.request.length} requests (${counts.join(', ')}), ${map.drips.t.length} late frames, ${map.holes.y.length} waits on screen. Arrow keys step through the requests; with Shift they select a part.`
}
