import FormControl from 'react-bootstrap/FormControl'
import type { Loading } from '../../core/project/types.ts'
import { set } from '../store/project-store.ts'
import { Chip } from '../controls/Chip.tsx'

type By = Loading['diskFreshness']

const path = '/loading/diskFreshness'
const ways: readonly { name: string; explain: string; usual: By }[] = [
  { name: 'its headers', explain: 'As the server says (max-age, ETag)', usual: { type: 'headers' } },
  {
    name: 'its age',
    explain: 'For so long after it was stored, whatever the server says',
    usual: { type: 'age', s: 3600 },
  },
  { name: 'its uses', explain: 'For a number of uses, whatever the server says', usual: { type: 'count', n: 5 } },
]

/** How long a copy on disk may be used without revalidation. */
export function Freshness({ by }: { by: By }) {
  const number = (value: number, unit: string, put: (next: number) => By) => (
    <label>
      <FormControl
        size="sm"
        type="number"
        className="tt-small-number"
        aria-label={`Fresh for, in ${unit}`}
        min={0}
        value={value}
        onChange={(event) => event.target.value !== '' && set(path, put(Number(event.target.value)))}
      />{' '}
      {unit}
    </label>
  )
  return (
    <div className="tt-field" data-explain="How long a copy on disk is good without asking">
      <span>Fresh by</span>
      <div className="tt-swatches" role="group" aria-label="Fresh by">
        {ways.map(({ name, explain, usual }) => (
          <Chip
            key={name}
            data-explain={explain}
            aria-pressed={by.type === usual.type}
            onClick={() => by.type !== usual.type && set(path, usual)}
          >
            {name}
          </Chip>
        ))}
        {by.type === 'age' && number(by.s, 's', (s) => ({ type: 'age', s }))}
        {by.type === 'count' && number(by.n, 'uses', (n) => ({ type: 'count', n }))}
      </div>
    </div>
  )
}
