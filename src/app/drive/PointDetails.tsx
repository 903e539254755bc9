import FormControl from 'react-bootstrap/FormControl'
import FormSelect from 'react-bootstrap/FormSelect'
import type { Step } from '../../core/project/types.ts'
import { set } from '../store/project-store.ts'
import { describeStep } from './TimeAxis.tsx'
import { Chip } from '../controls/Chip.tsx'

const units: Record<string, string> = {
  ms: 'ms',
  dp: 'dp',
  dpPerS: 'dp/s',
  px: 'px',
  row: 'row',
  where: 'row',
  count: 'items',
  at: 'position',
  to: 'position',
  item: 'item',
}
/** Labels of fields whose own name is not clear enough. */
const words: Record<string, string> = { where: 'row', dpPerS: 'speed', ms: 'lasts' }
const ops = ['insert', 'remove', 'move', 'update', 'refresh'] as const

/** The selected point in numbers. */
export function PointDetails({ step, path, onDelete }: { step: Step; path: string; onDelete: () => void }) {
  const values = Object.entries(step).filter(([name]) => name in units || name === 'address')
  return (
    <div className="tt-point" role="group" aria-label="The selected point">
      <strong>{describeStep(step)}</strong>
      {step.do === 'edit' && (
        <FormSelect
          size="sm"
          aria-label="What the edit does"
          value={step.op}
          onChange={(event) => set(`${path}/op`, event.target.value)}
        >
          {ops.map((op) => (
            <option key={op}>{op}</option>
          ))}
        </FormSelect>
      )}
      {values.map(
        ([name, value]) =>
          (typeof value === 'number' || name === 'address') && (
            <label key={name}>
              {words[name] ?? name}
              <FormControl
                size="sm"
                type={name === 'address' ? 'text' : 'number'}
                className="tt-small-number"
                value={String(value)}
                style={name === 'address' ? { width: 220 } : undefined}
                onChange={(event) =>
                  event.target.value !== '' &&
                  set(`${path}/${name}`, name === 'address' ? event.target.value : Number(event.target.value))
                }
              />
              {name in units && name !== 'where' && name !== 'row' && <small>{units[name]}</small>}
            </label>
          ),
      )}
      <Chip onClick={onDelete}>remove this point</Chip>
    </div>
  )
}
