import { memo, useState } from 'react'
import { keepsBudget, type Budget } from '../../core/compare/budgets.ts'
import type { Varied } from '../../core/sweep/vary.ts'
import { labelOf } from '../../core/sweep/default-values.ts'
import { Chip } from '../controls/Chip.tsx'
import { deltas } from '../runs/figures.ts'
import { TinyMap } from '../runs/TinyMap.tsx'
import { nowRow, type DrawnRow } from './sweep-store.ts'
import { settingsWord, valueWord } from './words.ts'

interface SmallMapsProps {
  varied: readonly Varied[]
  rows: readonly DrawnRow[]
  front: readonly number[]
  budgets: readonly Budget[]
  picked: number | null
  onPick: (row: number) => void
}

/** The same rows as maps: the last setting goes across, the others down; no axes on them. */
export const SmallMaps = memo(({ varied, rows, front, budgets, picked, onPick }: SmallMapsProps) => {
  const [onlyHeld, setOnlyHeld] = useState(false)
  const across = varied.at(-1)
  const columns = Math.min(6, across?.values.length ?? 1)
  const broken = (row: DrawnRow) => budgets.some((budget) => !keepsBudget(budget, row.metrics))
  const drawn = rows.filter((row) => row.row !== nowRow && (!onlyHeld || !broken(row)))
  return (
    <section className="tt-card tt-small-maps" aria-label="The same, as maps">
      <h2>
        The same, as maps{' '}
        <span className="tt-quiet">
          {across && `${labelOf(across.path)} across`}
          {varied.length > 1 &&
            `, ${varied
              .slice(0, -1)
              .map(({ path }) => labelOf(path))
              .join(' and ')} down`}
        </span>
      </h2>
      {budgets.length > 0 && (
        <Chip aria-pressed={onlyHeld} onClick={() => setOnlyHeld(!onlyHeld)}>
          only what keeps the budgets
        </Chip>
      )}
      <div className="tt-small-grid" style={{ gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }}>
        {drawn.map((row) => (
          <SmallMap
            key={row.row}
            row={row}
            isBroken={broken(row)}
            isFront={front.includes(row.row)}
            isPicked={picked === row.row}
            onPick={onPick}
          />
        ))}
      </div>
      <p className="tt-quiet">■ breaks a budget · the strong frame: no other beats it in what the plot shows</p>
    </section>
  )
})

interface SmallMapProps {
  row: DrawnRow
  isBroken: boolean
  isFront: boolean
  isPicked: boolean
  onPick: (row: number) => void
}

/** One of them: drawn once, however many come after it. */
const SmallMap = memo(({ row, isBroken, isFront, isPicked, onPick }: SmallMapProps) => (
  <button
    type="button"
    className="tt-small-map"
    aria-pressed={isPicked}
    aria-label={`${settingsWord(row.settings)}: ${toldOf(row)}${isBroken ? ', breaks a budget' : ''}`}
    data-front={isFront ? '' : undefined}
    onClick={() => onPick(row.row)}
  >
    <strong>{row.settings.map(({ value }) => valueWord(value)).join(' · ')}</strong>
    <TinyMap tiny={row.tiny} />
    <small>
      {isBroken ? '■ ' : ''}
      {toldOf(row)}
    </small>
  </button>
))

const toldOf = ({ metrics }: DrawnRow) =>
  deltas
    .map(({ id, word, form }) => {
      const median = metrics[id]?.median
      if (median === undefined) return `${word} –`
      const { text, unit } = form(median)
      return `${text} ${unit} ${word}`
    })
    .join(' · ')
