import type { MapData } from '../../core/profile/views/map-data.ts'
import type { MapRange, MapWindow, PlotArea } from './map-view.ts'
import type { Projection } from './projection.ts'

/** How far beyond the screen's edges a run's policy reached, dp; 0: there was no such zone. */
export interface MapZones {
  /** Rows that are coming up were asked for as far as this. */
  ahead: number
  /** What has left was let go no nearer than this. */
  letGo: number
}

/** What draws a map that is far out, and keeps its pixels between redraws. */
export interface FarPainter {
  /** @returns whether the marks are those of the paint, or, after so many ms, still what stands in for them */
  draw(context: CanvasRenderingContext2D, paint: MapPaint, mostMs?: number): boolean
}

/** All that a drawing of the scroll map depends on. */
export interface MapPaint {
  map: MapData
  ghost: MapData | null
  view: MapWindow
  plot: PlotArea
  width: number
  height: number
  /** Position of the selected line. */
  selected: number | null
  /** Classes that the legend has switched off. */
  hidden: ReadonlySet<string>
  colour: (token: string) => string
  /** How places in the list are drawn; as rows unless it is said. */
  projection?: Projection
  /** A part of the map that is selected: ms and dp of the list; what is outside is dimmed. */
  range?: MapRange | null
  /** Lines that are drawn, by their place in the map; all of them unless it is said. */
  only?: Uint8Array | null
  onlyGhost?: Uint8Array | null
  /** Paths even where there are many: a drawing that is kept. */
  everyLine?: boolean
  /** Of the run's policy; drawn where the screen lies straight. */
  zones?: MapZones | null
  /** How long many lines may be worked on before the rest is left for later, ms; to their end unless it is said. */
  partMs?: number
  /** Kept between redraws: the pixel buffer of the far-out view. */
  far: FarPainter
}
