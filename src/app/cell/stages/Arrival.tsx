import type { Slot } from '../../../core/project/types.ts'
import { Amount } from '../../controls/Amount.tsx'
import { Choice } from '../../controls/Choice.tsx'
import { set } from '../../store/project-store.ts'
import { Chip } from '../../controls/Chip.tsx'

const skips = [
  ['memory', 'already in memory'],
  ['flicking', 'flicking'],
  ['reduced-motion', 'reduced motion'],
] as const

/** How a picture that has just arrived is shown, and when the transition is skipped. */
export function Arrival({ slot, path, refreshHz }: { slot: Slot; path: string; refreshHz: number }) {
  const { transition } = slot
  const at = `${path}/transition`
  return (
    <section className="tt-card" aria-label="Arrival">
      <h2>Arrival</h2>
      <Choice
        path={`${at}/type`}
        value={transition.type}
        names={{ none: 'none', fade: 'fade', 'fade-grow': 'fade and grow' }}
      />
      <Amount
        path={`${at}/ms`}
        value={transition.ms}
        from={0}
        to={1000}
        step={10}
        note={`${Math.round((transition.ms * refreshHz) / 1000)} frames`}
      />
      {transition.type === 'fade-grow' && (
        <Amount path={`${at}/fromScale`} value={transition.fromScale} from={0} to={1.5} step={0.05} />
      )}
      <div className="tt-field" data-explain="When the picture is simply there, without an arrival.">
        <span id="skip-label">Skip when</span>
        <div className="tt-swatches" role="group" aria-labelledby="skip-label">
          {skips.map(([name, words]) => {
            const on = transition.skip.includes(name)
            return (
              <Chip
                key={name}
                aria-pressed={on}
                onClick={() =>
                  set(`${at}/skip`, on ? transition.skip.filter((each) => each !== name) : [...transition.skip, name])
                }
              >
                {words}
              </Chip>
            )
          })}
        </div>
      </div>
      <details>
        <summary>More</summary>
        <Choice
          path={`${at}/easing`}
          value={transition.easing}
          names={{ linear: 'even', 'ease-in': 'in', 'ease-out': 'out', 'ease-in-out': 'in and out' }}
        />
        <Choice
          path={`${at}/beneath`}
          value={transition.beneath}
          names={{ stays: 'stays', fades: 'fades', goes: 'goes' }}
        />
        <Choice path={`${at}/on`} value={transition.on} names={{ compositor: 'compositor', main: 'main thread' }} />
      </details>
    </section>
  )
}
