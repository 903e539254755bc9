import { useState } from 'react'
import Dropdown from 'react-bootstrap/Dropdown'
import FormControl from 'react-bootstrap/FormControl'
import type { Project } from '../../core/project/types.ts'
import { labelOf } from '../../core/sweep/default-values.ts'
import { readRange } from '../../core/sweep/vary-range.ts'
import type { Varied as VariedSetting } from '../../core/sweep/vary.ts'
import { Chip } from '../controls/Chip.tsx'
import { isWhole, valueText } from '../../core/sweep/setting.ts'
import { useOwnPresets } from '../store/own-presets.ts'
import { notify } from '../store/project-store.ts'
import { toggleVary, vary } from './sweep-store.ts'
import { MenuItem } from '../controls/MenuItem.tsx'

const textOf = ({ path, values }: VariedSetting) => values.map((value) => valueText({ path, value })).join(', ')

/** A setting on the sweep: its values can be typed, as a list or as a range. */
export function Varied({ setting }: { setting: VariedSetting }) {
  const { path } = setting
  const [typed, setTyped] = useState<string | null>(null)
  const own = useOwnPresets(isWhole(path) ? path : null)
  /** A preset of your own is typed by its name. */
  const meant = (value: unknown) => {
    const named = own?.find(({ name }) => name === value)
    return named ? { name: named.name, values: named.values } : value
  }
  const commit = () => {
    if (typed !== null && typed !== textOf(setting)) {
      const read = readRange(`${path}=${typed}`)
      if (read.ok) vary(path, read.value.values.map(meant))
      else notify(`${labelOf(path)} stays as it was. ${read.message}`)
    }
    setTyped(null)
  }
  return (
    <span className="tt-varied">
      <label>
        {labelOf(path)}{' '}
        <FormControl
          size="sm"
          aria-label={`Values of ${labelOf(path)}`}
          data-explain="Values separated by commas, or a range such as 1..8 or 0..1:0.25"
          value={typed ?? textOf(setting)}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={commit}
          onKeyDown={(event) => event.key === 'Enter' && commit()}
        />
      </label>
      <Chip aria-label={`Remove ${labelOf(path)}`} onClick={() => vary(path, null)}>
        ×
      </Chip>
    </span>
  )
}

/** Everyday settings, in the order of the steps that show them. */
function offered({ variants }: Project, screen: number): string[] {
  const slot = `/screens/${screen}/cells/0/slots/0`
  return [
    'policy',
    '/loading/fetchSlots',
    '/loading/order',
    '/loading/ahead/amount',
    '/loading/cancel/when',
    '/loading/cancel/keepAbove',
    '/loading/memoryMb',
    '/loading/diskMb',
    '/loading/decodeWorkers',
    '/loading/retry/attempts',
    `${slot}/fit`,
    `${slot}/transition/ms`,
    `/screens/${screen}/layout/columns`,
    'device',
    'network',
    '/network/downKbps',
    '/network/rttMs',
    '/device/speed',
    ...(variants.length > 0 ? ['variant'] : []),
  ]
}

/** What else can be varied. */
export function VaryMore({
  project,
  screen,
  varied,
}: {
  project: Project
  screen: number
  varied: readonly VariedSetting[]
}) {
  return (
    <Dropdown>
      <Dropdown.Toggle className="tt-chip" id="vary">
        + vary
      </Dropdown.Toggle>
      <Dropdown.Menu className="tt-vary-menu">
        {offered(project, screen)
          .filter((path) => !varied.some((each) => each.path === path))
          .map((path) => (
            <MenuItem key={path} onClick={() => void toggleVary(path).then(notify)}>
              {labelOf(path)}
            </MenuItem>
          ))}
      </Dropdown.Menu>
    </Dropdown>
  )
}
