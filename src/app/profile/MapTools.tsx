import FormSelect from 'react-bootstrap/FormSelect'
import type { MapData } from '../../core/profile/views/map-data.ts'
import { exportMap } from '../map/export-map.ts'
import { requestsIn, type MapRange } from '../map/map-view.ts'
import type { MapZones } from '../map/map-paint.ts'
import type { Projection } from '../map/projection.ts'
import { notify } from '../store/project-store.ts'
import { saveBlob } from '../store/save-file.ts'
import { Chip } from '../controls/Chip.tsx'
import { TextButton } from '../controls/TextButton.tsx'

interface MapToolsProps {
  map: MapData
  ghost: MapData | null
  hidden: ReadonlySet<string>
  zones: MapZones | null
  name: string
  projection: Projection
  onProjection: (projection: Projection) => void
  range: MapRange | null
  onRange: (range: MapRange | null) => void
  /** The slots of a cell by number, where there are several; the one that is drawn, null for all. */
  slots: readonly string[]
  slot: number | null
  /** The lines of the chosen slot; null: all. */
  only: Uint8Array | null
  onSlot: (slot: number | null) => void
}

/** How the map is projected, what part of it is selected, and the map as a file. */
export function MapTools({
  map,
  ghost,
  hidden,
  zones,
  name,
  projection,
  onProjection,
  range,
  onRange,
  slots,
  slot,
  only,
  onSlot,
}: MapToolsProps) {
  const save = (as: 'svg' | 'png') => {
    exportMap(as, map, ghost, hidden, projection, only, zones).then(
      (file) => saveBlob(`${name}.${as}`, file),
      (error: unknown) =>
        notify(`The map could not be exported: ${error instanceof Error ? error.message : String(error)}`),
    )
  }
  return (
    <div className="tt-map-tools">
      <div className="tt-swatches" role="group" aria-label="Projection of the map">
        <Chip
          aria-pressed={projection === 'rows'}
          data-explain="Rows run down; the screen moves over them. Drag with Shift, or press Shift and arrow keys, to select a part of the map."
          onClick={() => onProjection('rows')}
        >
          rows
        </Chip>
        <Chip
          aria-pressed={projection === 'distance'}
          data-explain="The screen lies straight; everything is as far from it as it was then. Drag with Shift, or press Shift and arrow keys, to select a while."
          onClick={() => onProjection('distance')}
        >
          distance
        </Chip>
      </div>
      {slots.length > 1 && (
        <FormSelect
          size="sm"
          aria-label="Slot that the map shows"
          data-explain="Which picture of a cell the requests were for"
          value={slot ?? ''}
          onChange={({ target }) => onSlot(target.value === '' ? null : Number(target.value))}
        >
          <option value="">all slots</option>
          {slots.map((name, i) => (
            <option key={i} value={i}>
              {name}
            </option>
          ))}
        </FormSelect>
      )}
      {range ? (
        <span role="status" className="tt-quiet">
          {selected(map, range)} <TextButton onClick={() => onRange(null)}>all</TextButton>
        </span>
      ) : null}
      <Chip onClick={() => save('svg')}>SVG</Chip>
      <Chip onClick={() => save('png')}>PNG</Chip>
    </div>
  )
}

/** The contents of the selected part; counted, not measured. */
function selected(map: MapData, range: MapRange): string {
  return `${requestsIn(map, range).length} requests from ${(Math.max(0, range.fromMs) / 1000).toFixed(2)} to ${(range.toMs / 1000).toFixed(2)} s`
}
