import type { MapData } from '../../core/profile/views/map-data.ts'
import type { MapRange, MapWindow, PlotArea } from './map-view.ts'
import type { Projection } from './projection.ts'

/** How far beyond the screen's edges a run's policy reached, dp; 0: there was no such zone. */
export interface MapZones {
  /** Rows that were coming up were requested up to this distance. */
  ahead: number
  /** Requests of rows that had left were let go from this distance. */
  letGo: number
}

/** Draws a map that is far out, and keeps its pixels between redraws. */
export interface FarPainter {
  /** @returns whether the marks are those of the paint, or, after so many ms, still the ones before */
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
  /** Classes that are switched off in the legend. */
  hidden: ReadonlySet<string>
  colour: (token: string) => string
  /** How positions in the list are drawn; as rows by default. */
  projection?: Projection
  /** The selected part of the map, in ms and dp of the list; the rest is dimmed. */
  range?: MapRange | null
  /** Lines that are drawn, by their place in the map; all by default. */
  only?: Uint8Array | null
  onlyGhost?: Uint8Array | null
  /** Draws paths even where there are many lines: for a drawing that is saved. */
  everyLine?: boolean
  /** Zones of the run's policy; drawn in the distance projection. */
  zones?: MapZones | null
  /** How long many lines may be worked on before the rest is left for later, ms; no limit by default. */
  partMs?: number
  /** Kept between redraws: the pixel buffer of the far-out view. */
  far: FarPainter
}
