import { memo, useEffect, useRef, useState } from 'react'
import FormSelect from 'react-bootstrap/FormSelect'
import { keepsBudget, type Budget } from '../../core/compare/budgets.ts'
import type { Metrics } from '../../core/profile/figures/metric-definitions.ts'
import { labelOf } from '../../core/sweep/default-values.ts'
import { sortedRows } from '../../core/sweep/sorted-rows.ts'
import type { Varied } from '../../core/sweep/vary.ts'
import { Chip } from '../controls/Chip.tsx'
import { compared, deltas } from '../runs/figures.ts'
import { TinyMap } from '../runs/TinyMap.tsx'
import { FigureLines } from './FigureLines.tsx'
import { isTried, type DrawnRow, type RowName, type TriedRow } from './sweep-store.ts'
import type { MapOrder } from './sweep-view.ts'
import { settingsWord, figureWords, valueWord } from './words.ts'

interface SmallMapsProps {
  varied: readonly Varied[]
  rows: readonly DrawnRow[]
  front: readonly RowName[]
  /** Budgets that are about what was simulated, and the figures that relative ones are compared with. */
  budgets: readonly Budget[]
  baseline: Metrics | null
  order: MapOrder
  onOrder: (order: MapOrder) => void
  picked: number | null
  /** The row under the pointer, here or in the plot. */
  hovered: RowName | null
  onHover: (row: RowName | null) => void
  onPick: (row: number) => void
}

/** The same rows as maps: the last setting goes across, the others down; no axes on them. */
export const SmallMaps = memo((props: SmallMapsProps) => {
  const { varied, rows, front, budgets, baseline, order, onOrder, picked, hovered, onHover, onPick } = props
  const [onlyHeld, setOnlyHeld] = useState(false)
  const grid = useRef<HTMLDivElement>(null)
  // The row under the pointer in the plot is scrolled into view here; one under the pointer here is in view already.
  useEffect(() => {
    if (hovered === null || grid.current!.matches(':hover')) return
    grid.current!.querySelector(`[data-row="${hovered}"]`)?.scrollIntoView({ block: 'nearest' })
  }, [hovered])
  const across = varied.at(-1)
  const columns = Math.min(6, across?.values.length ?? 1)
  const broken = (row: DrawnRow) => budgets.some((budget) => !keepsBudget(budget, row.metrics, baseline))
  const tried = rows.filter(isTried).filter((row) => !onlyHeld || !broken(row))
  const isAsVaried = order === 'settings' || (order === 'room' && budgets.length === 0)
  const drawn = isAsVaried ? tried : sortedRows(tried, order === 'room' ? { budgets, baseline } : order)
  return (
    <section className="tt-card tt-small-maps" aria-label="The same, as maps">
      <h2>
        The same, as maps{' '}
        <span className="tt-quiet">
          {isAsVaried && across && `${labelOf(across.path)} across`}
          {isAsVaried &&
            varied.length > 1 &&
            `, ${varied
              .slice(0, -1)
              .map(({ path }) => labelOf(path))
              .join(' and ')} down`}
        </span>
      </h2>
      <div className="tt-source-line">
        <label className="tt-axis-pick">
          in order of{' '}
          <FormSelect
            size="sm"
            value={isAsVaried ? 'settings' : order}
            onChange={(event) => onOrder(event.target.value as MapOrder)}
          >
            <option value="settings">the settings</option>
            {budgets.length > 0 && <option value="room">room within the budgets</option>}
            {compared.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </FormSelect>
        </label>
        {budgets.length > 0 && (
          <Chip aria-pressed={onlyHeld} onClick={() => setOnlyHeld(!onlyHeld)}>
            only what keeps the budgets
          </Chip>
        )}
      </div>
      <div className="tt-small-grid" ref={grid} style={{ gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }}>
        {drawn.map((row) => (
          <SmallMap
            key={row.row}
            row={row}
            isBroken={broken(row)}
            isFront={front.includes(row.row)}
            isPicked={picked === row.row}
            isHovered={hovered === row.row}
            onHover={onHover}
            onPick={onPick}
          />
        ))}
      </div>
      <p className="tt-quiet">■ breaks a budget · the strong frame: no other beats it in what the plot shows</p>
    </section>
  )
})

interface SmallMapProps {
  row: TriedRow
  isBroken: boolean
  isFront: boolean
  isPicked: boolean
  isHovered: boolean
  onHover: (row: RowName | null) => void
  onPick: (row: number) => void
}

/** One of them: drawn once, however many come after it. */
const SmallMap = memo(({ row, isBroken, isFront, isPicked, isHovered, onHover, onPick }: SmallMapProps) => {
  const enter = () => onHover(row.row)
  const leave = () => onHover(null)
  return (
    <button
      type="button"
      className="tt-small-map"
      data-row={row.row}
      aria-pressed={isPicked}
      aria-label={`${settingsWord(row.settings)}: ${figureWords(deltas, row.metrics)}${isBroken ? ', breaks a budget' : ''}`}
      data-front={isFront ? '' : undefined}
      data-hovered={isHovered ? '' : undefined}
      onClick={() => onPick(row.row)}
      onPointerEnter={enter}
      onPointerLeave={leave}
      onFocus={enter}
      onBlur={leave}
    >
      <strong>
        {isBroken ? '■ ' : ''}
        {row.settings.map(valueWord).join(' · ')}
      </strong>
      <TinyMap tiny={row.tiny} />
      <FigureLines metrics={row.metrics} />
    </button>
  )
})
