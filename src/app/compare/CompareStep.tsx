import { useSearchParams } from 'react-router'
import { Chip } from '../controls/Chip.tsx'
import { BudgetsPart } from '../sweep/BudgetsPart.tsx'
import { MatrixPart } from '../sweep/MatrixPart.tsx'
import { SweepPart } from '../sweep/SweepPart.tsx'
import { RunsPart } from './RunsPart.tsx'

const parts = [
  ['runs', 'Runs', 'Two to six runs compared'],
  ['sweep', 'Sweep', 'Every combination of some settings'],
  ['matrix', 'Devices and networks', 'The settings as they are, on each of them'],
  ['budgets', 'Budgets', 'What must hold, and settings that meet it'],
] as const

/**
 * Whether a change was better, worse or noise: between runs, over combinations of settings, on devices and networks,
 * against budgets.
 */
export default function CompareStep() {
  const [query, setQuery] = useSearchParams()
  const part = query.get('part') ?? 'runs'
  const nav = (
    <div className="tt-swatches" role="group" aria-label="What is compared">
      {parts.map(([id, name, explain]) => (
        <Chip
          key={id}
          aria-pressed={part === id}
          data-explain={explain}
          onClick={() => setQuery({ part: id }, { replace: true })}
        >
          {name}
        </Chip>
      ))}
    </div>
  )
  switch (part) {
    case 'sweep':
      return <SweepPart parts={nav} />
    case 'matrix':
      return <MatrixPart parts={nav} />
    case 'budgets':
      return <BudgetsPart parts={nav} />
    default:
      return <RunsPart parts={nav} />
  }
}
