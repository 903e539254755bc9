import { settingAt } from '../../core/project/settings-index.ts'
import { Amount } from '../controls/Amount.tsx'
import { set } from '../store/project-store.ts'
import { Chip } from '../controls/Chip.tsx'

const path = '/loading/startBelowDpPerS'
/** dp/s: the initial value when waiting is chosen. */
const usual = 1500

/** The speed of the list above which nothing starts. */
export function Restraint({ dpPerS }: { dpPerS: number | null }) {
  const { label, explain } = settingAt(path)
  return (
    <>
      <div className="tt-field" data-explain={explain}>
        <span>{label}</span>
        <div className="tt-swatches" role="group" aria-label={label}>
          <Chip aria-pressed={dpPerS === null} onClick={() => set(path, null)}>
            starts at any speed
          </Chip>
          <Chip aria-pressed={dpPerS !== null} onClick={() => dpPerS === null && set(path, usual)}>
            waits until it is slower
          </Chip>
        </div>
      </div>
      {dpPerS !== null && <Amount path={path} value={dpPerS} label="Starts below" from={100} to={8000} step={100} />}
    </>
  )
}
