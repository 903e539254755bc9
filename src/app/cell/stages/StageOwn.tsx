import FormControl from 'react-bootstrap/FormControl'
import FormSelect from 'react-bootstrap/FormSelect'
import type { Fit, Slot, StageName } from '../../../core/project/types.ts'
import { edit, set } from '../../store/project-store.ts'
import { Chip } from '../../controls/Chip.tsx'

const fits: readonly Fit[] = ['cover', 'contain', 'fill', 'none', 'scale-down']
const all = (dp: number) => [dp, dp, dp, dp]

/** Settings that one stage has beside its visual: the colour below, inset, corners and fit; empty: the slot's. */
export function StageOwn({ slot, stage, path }: { slot: Slot; stage: StageName; path: string }) {
  const look = slot.stages[stage]
  const at = `${path}/stages/${stage}`
  const take = (name: string) => edit(`${stage} ${name}`, [{ op: 'remove', path: `${at}/${name}` }])
  const four = (name: 'insetDp' | 'cornersDp', label: string) => (
    <div className="tt-field">
      <span>{label}</span>
      <span>
        <FormControl
          size="sm"
          type="number"
          min={0}
          max={400}
          className="tt-small-number"
          aria-label={`${label} in this stage, dp`}
          value={look[name]?.[0] ?? ''}
          placeholder={String(slot[name][0])}
          onChange={(event) =>
            event.target.value === '' ? look[name] && take(name) : set(`${at}/${name}`, all(Number(event.target.value)))
          }
        />{' '}
        dp
      </span>
    </div>
  )
  return (
    <>
      {four('insetDp', 'Inset')}
      {four('cornersDp', 'Corners')}
      <div className="tt-field">
        <span>Beneath</span>
        <span>
          <FormControl
            size="sm"
            type="color"
            aria-label="Colour behind, in this stage"
            value={look.colour ?? '#FFFDF8'}
            onChange={(event) => set(`${at}/colour`, event.target.value.toUpperCase())}
          />
          {look.colour !== undefined && <Chip onClick={() => take('colour')}>none</Chip>}
        </span>
      </div>
      <div className="tt-field">
        <span>Fit</span>
        <FormSelect
          size="sm"
          aria-label="Fit in this stage"
          value={look.fit ?? ''}
          onChange={(event) => (event.target.value === '' ? take('fit') : set(`${at}/fit`, event.target.value))}
        >
          <option value="">as the slot: {slot.fit}</option>
          {fits.map((fit) => (
            <option key={fit}>{fit}</option>
          ))}
        </FormSelect>
      </div>
    </>
  )
}
