import { knownItems } from '../../core/feed/known-items.ts'
import { useRef, useState } from 'react'
import Button from 'react-bootstrap/Button'
import { unitsPerDp } from '../../core/numbers/units.ts'
import type { Item, Project, Screen } from '../../core/project/types.ts'
import { stops, type Standstill, type Stop, type Wanted } from '../../core/watch/standstill.ts'
import { SteppedRun } from '../../core/watch/stepped-run.ts'
import { stepLive, useDevice } from '../device/device-store.ts'
import { classNames, rowName } from '../loading/use-live-line.ts'
import { Fold } from '../controls/Fold.tsx'
import { Chip } from '../controls/Chip.tsx'

const explains: Record<Stop, string> = {
  creation: 'A new cell is made',
  bind: 'A cell is bound to an item',
  request: 'A transfer starts',
  arrival: 'A picture has arrived',
  'cut off': 'A transfer is cut off',
  late: 'A frame is late',
}
const mostShown = 9

/**
 * A drive, event by event: the simulation stops before the awaited event, the live device after it; the queue, the
 * cells and the tiers are shown.
 */
export function StepMode({ project, screen, items }: { project: Project; screen: Screen; items: readonly Item[] }) {
  const standstill = useDevice(({ standstill }) => standstill)
  const mode = useDevice(({ mode }) => mode)
  const [wanted, setWanted] = useState<readonly Stop[]>(['bind', 'cut off'])
  const [where, setWhere] = useState<'simulated' | 'live'>('simulated')
  const [simulated, setSimulated] = useState<Standstill | null>(null)
  const run = useRef<{ project: Project; stepped: SteppedRun } | null>(null)
  const now = where === 'live' ? standstill : simulated
  const moving = where === 'live' && mode === 'driving' && now === null
  const go = (next: Wanted | null) => {
    if (where === 'live') return void stepLive(next)
    // A changed setting starts over: a run whose settings change halfway would prove nothing.
    if (run.current?.project !== project || now?.over)
      run.current = {
        project,
        stepped: new SteppedRun(project, { screen: screen.id, items: knownItems(screen.feed) ? null : items }),
      }
    setSimulated(run.current.stepped.next(next ?? []))
  }
  return (
    <Fold title="Step mode" className="tt-step-mode">
      <div className="tt-swatches" role="group" aria-label="What it stops at">
        {(Object.keys(stops) as Stop[]).map((stop) => {
          const on = wanted.includes(stop)
          return (
            <Chip
              key={stop}
              aria-pressed={on}
              data-explain={explains[stop]}
              onClick={() => setWanted(on ? wanted.filter((each) => each !== stop) : [...wanted, stop])}
            >
              {stop}
            </Chip>
          )
        })}
      </div>
      <div className="tt-swatches" role="group" aria-label="Which world is stepped">
        <Chip
          aria-pressed={where === 'simulated'}
          data-explain="Nothing happens while it is paused"
          onClick={() => setWhere('simulated')}
        >
          in the simulation
        </Chip>
        <Chip
          aria-pressed={where === 'live'}
          data-explain="The list and its clock are paused; what the network sends meanwhile waits"
          onClick={() => setWhere('live')}
        >
          on the live device
        </Chip>
      </div>
      <p role="status">
        {now && (
          <>
            <strong>{(now.ms / 1000).toFixed(3)} s</strong> {where === 'simulated' && now.at ? 'next: ' : ''}
            {sentence(now)}
          </>
        )}
        {!now && moving && 'Continuing…'}
        {!now &&
          !moving &&
          `${where === 'live' ? 'The drive' : 'The simulation'} stops where you say, and shows what it holds.`}
      </p>
      <Button size="sm" variant="outline-primary" disabled={wanted.length === 0 || moving} onClick={() => go(wanted)}>
        Next event
      </Button>{' '}
      <Button size="sm" variant="outline-primary" disabled={moving} onClick={() => go('frame')}>
        Next frame
      </Button>{' '}
      <Button size="sm" variant="outline-primary" disabled={now === null || now.over} onClick={() => go(null)}>
        Run on
      </Button>{' '}
      {simulated && where === 'simulated' && (
        <Button
          size="sm"
          variant="link"
          onClick={() => {
            run.current = null
            setSimulated(null)
          }}
        >
          From the start
        </Button>
      )}
      {now && !now.over && (
        <div className="tt-standstill">
          <div>
            <h3>In line · {now.queue.length}</h3>
            <ol>
              {now.queue.slice(0, mostShown).map((each) => (
                <li key={each.request}>
                  {rowName(each.row)}: {each.state}
                  {each.share === null ? '' : ` ${Math.round(100 * each.share)} %`}, {classNames[each.class] ?? ''}
                </li>
              ))}
            </ol>
          </div>
          <div>
            <h3>Cells · {now.cells.length}</h3>
            <ol>
              {now.cells.slice(0, mostShown).map((each) => (
                <li key={each.cell}>
                  cell {each.cell} on row {each.row}: {each.shows ? 'shows' : each.claim}
                </li>
              ))}
            </ol>
          </div>
          <p>
            Tiers: memory {(now.memoryBytes / 1e6).toFixed(1)} MB and {(now.boundBytes / 1e6).toFixed(1)} in cells, disk{' '}
            {(now.diskBytes / 1e6).toFixed(1)} MB; the list stands at {Math.round(now.top / unitsPerDp)} dp.
          </p>
        </div>
      )}
    </Fold>
  )
}

function sentence({ at, over }: Standstill): string {
  if (at === null) return over ? 'The run is over.' : 'Nothing more happened.'
  switch (at.event) {
    case 'create':
      return `cell ${at.cell} is made`
    case 'bind':
      return `cell ${at.cell} is bound to row ${at.row}`
    case 'start':
      return `request ${at.request} starts, try ${at.attempt + 1}`
    case 'received':
      return `transfer ${at.transfer} has arrived: ${(at.bytes / 1000).toFixed(1)} kB`
    case 'cut':
      return `transfer ${at.transfer} is cut off`
    case 'frame': {
      const late = (at.presented - at.due) / 1000
      return late > 0 ? `a frame is ${late.toFixed(1)} ms late` : 'a frame is on screen'
    }
  }
}
