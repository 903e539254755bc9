import FormSelect from 'react-bootstrap/FormSelect'
import { settingAt } from '../../../core/project/settings-index.ts'
import { freeSetName } from '../../../core/project/slot-sources.ts'
import { edit, set, useProject } from '../../store/project-store.ts'
import { Chip } from '../../controls/Chip.tsx'

interface OwnSettingsProps {
  path: string
  screen: number
  cell: number
  slot: number
}

/** Names of settings that are groups or lists. */
const groups: Record<string, string> = {
  size: 'Frame',
  stages: 'Stages',
  transition: 'Arrival',
  treatments: 'Treatments',
  position: 'Focus',
  media: 'Media',
  decodeAt: 'Decode at',
}
const wordOf = (path: string, name: string) => groups[name] ?? settingAt(`${path}/${name}`).label

const always = new Set(['id', 'use', 'address'])

/** What this slot sets itself, against the app's defaults and its named set; each can be reset. */
export function OwnSettings({ path, screen, cell, slot }: OwnSettingsProps) {
  const { raw, project } = useProject()!
  const own = ownOf(raw, [screen, cell, slot])
  const { use } = project.screens[screen]!.cells[cell]!.slots[slot]!
  const sets = Object.keys(project.pictures.sets)
  const names = Object.keys(own).filter((name) => !always.has(name))
  const save = () => {
    const name = freeSetName(project)
    edit('save a set', [
      { op: 'add', path: `/pictures/sets/${name}`, value: Object.fromEntries(names.map((each) => [each, own[each]])) },
      ...names.map((each) => ({ op: 'remove' as const, path: `${path}/${each}` })),
      { op: 'replace', path: `${path}/use`, value: name },
    ])
  }
  return (
    <div
      className="tt-own"
      data-explain="The slot’s own settings win over its named set, which wins over the app’s defaults."
    >
      <label>
        Set{' '}
        <FormSelect size="sm" value={use ?? ''} onChange={(event) => set(`${path}/use`, event.target.value || null)}>
          <option value="">the app’s defaults</option>
          {sets.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </FormSelect>
      </label>
      {names.map((name) => (
        <Chip
          key={name}
          data-explain={`Resets this slot’s own “${wordOf(path, name)}”`}
          onClick={() => edit(`reset ${wordOf(path, name)}`, [{ op: 'remove', path: `${path}/${name}` }])}
        >
          {wordOf(path, name)} ×
        </Chip>
      ))}
      {names.length > 0 && <Chip onClick={save}>keep as a set</Chip>}
    </div>
  )
}

function ownOf(raw: unknown, [screen, cell, slot]: readonly [number, number, number]): Record<string, unknown> {
  const screens = (raw as { screens: { cells?: { slots?: Record<string, unknown>[] }[] }[] }).screens
  return screens[screen]?.cells?.[cell]?.slots?.[slot] ?? {}
}
