import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import type { MapData } from '../../core/profile/views/map-data.ts'
import { whenRestored } from '../../live/when-restored.ts'
import { Handle } from '../controls/Handle.tsx'
import { useTheme } from '../theme/follow-theme.ts'
import { drawMap } from './draw-map.ts'
import { FarView } from './far-view.ts'
import { Tokens } from './tokens.ts'
import { sentence, summary } from './map-sentences.ts'
import { useMapHand } from './use-map-hand.ts'
import { fitAll, lineOf, plotOf, toX, toY, type MapRange, type MapWindow } from './map-view.ts'
import type { MapZones } from './map-paint.ts'
import { fitDistance, type Projection } from './projection.ts'

interface ScrollMapProps {
  map: MapData
  ghost: MapData | null
  hidden?: ReadonlySet<string>
  /** The selected request's number. */
  selected: number | null
  onSelect: (request: number | null) => void
  /** Findings, at the places where they show. */
  pins?: readonly { id: string; ms: number; label: string; what: string }[]
  onPin?: (id: string) => void
  projection?: Projection
  /** Lines that are drawn, of the map and of its ghost; null: all. */
  only?: Uint8Array | null
  onlyGhost?: Uint8Array | null
  /** The selected part; `onPart` is called when another is dragged with the shift key. */
  range?: MapRange | null
  onRange?: (range: MapRange | null) => void
  /** Zones of the run's policy; in the distance projection the edge of what is coming up can be dragged. */
  zones?: MapZones | null
  edge?: { rows: number; most: number; onChange: (rows: number) => void } | null
  /** Cursor of the playback; null: nothing is played. */
  cursorMs?: number | null
  /** The cursor is put to a moment. */
  onCursor?: (ms: number) => void
}

/** How much of a frame the lines of a large map may take, ms. */
const partMs = 6

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
  const [far, setFar] = useState(() => new FarView())
  const [size, setSize] = useState({ width: 800, height: 200 })
  const whole = useMemo(() => (projection === 'rows' ? fitAll(map) : fitDistance(map)), [map, projection])
  // A zoomed part belongs to one projection.
  const [held, setHeld] = useState<{ window: MapWindow; projection: Projection } | null>(null)
  const zoomed = held?.projection === projection ? held.window : null
  const setZoomed = useCallback((window: MapWindow | null) => setHeld(window && { window, projection }), [projection])
  const [hover, setHover] = useState<number | null>(null)
  const view = zoomed ?? whole
  const plot = useMemo(() => plotOf(size.width, size.height), [size])
  const rowPx = (map.pitchDp / (view.toDp - view.fromDp)) * plot.height
  const edgeY = edge ? toY(map.heightDp, view, plot) + edge.rows * rowPx : 0
  const at = useMemo(() => lineOf(map, selected), [map, selected])
  const description = useMemo(() => summary(map), [map])
  const theme = useTheme()
  const [tokens] = useState(() => new Tokens())

  useEffect(() => {
    const observer = new ResizeObserver(([entry]) =>
      setSize({ width: entry!.contentRect.width, height: entry!.contentRect.height }),
    )
    observer.observe(box.current!)
    return () => observer.disconnect()
  }, [])

  // What the far-out view keeps is lost with the canvas.
  useEffect(() => whenRestored(canvas.current!, () => setFar(new FarView())), [])

  useEffect(() => {
    // In the next frame: several changes are drawn once, and not in the task that has rendered the rest of the page.
    let frame = requestAnimationFrame(draw)
    function draw(): void {
      const element = canvas.current
      // The view may be gone by the time of this frame: React cleans up after it was taken off the page.
      if (!element) return
      const ratio = window.devicePixelRatio
      element.width = Math.round(size.width * ratio)
      element.height = Math.round(size.height * ratio)
      const context = element.getContext('2d')!
      context.scale(ratio, ratio)
      const isWhole = drawMap(context, {
        map,
        ghost,
        view,
        plot,
        ...size,
        selected: at,
        hidden,
        projection,
        range,
        only,
        onlyGhost,
        zones,
        colour: tokens.of(element, theme),
        partMs,
        far,
      })
      if (!isWhole) frame = requestAnimationFrame(goOn)
    }
    // Many lines take several frames; in between nothing is drawn, since it would look the same.
    function goOn(): void {
      if (far.work(partMs)) draw()
      else frame = requestAnimationFrame(goOn)
    }
    return () => cancelAnimationFrame(frame)
  }, [map, ghost, view, plot, size, at, hidden, theme, tokens, projection, range, only, onlyGhost, zones, far])

  const hand = useMapHand({
    map,
    canvas,
    view,
    plot,
    projection,
    at,
    range,
    onRange,
    onSelect,
    onCursor,
    onHover: setHover,
    onZoom: setZoomed,
  })

  return (
    <div className="tt-map" ref={box}>
      <canvas
        ref={canvas}
        tabIndex={0}
        role="img"
        aria-label={description}
        style={{ width: '100%', height: '100%' }}
        {...hand}
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
        {sentence(map, hover ?? at)}
      </div>
      {zoomed && (
        <button type="button" className="tt-fit" onClick={() => setZoomed(null)}>
          Fit
        </button>
      )}
    </div>
  )
}
