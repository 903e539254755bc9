import FormControl from 'react-bootstrap/FormControl'
import Table from 'react-bootstrap/Table'
import { useEffect, useRef, useState } from 'react'
import Button from 'react-bootstrap/Button'
import type { Spread } from '../../core/compare/repeat.ts'
import { Fold } from '../controls/Fold.tsx'
import { Progress } from '../controls/Progress.tsx'
import { figureOf, headline } from '../runs/figures.ts'
import { seenPictures, useDevice } from '../device/device-store.ts'
import { Cancelled, proofWorker, type Job } from '../simulate/worker-client.ts'
import { itemsToGive } from '../store/feed-store.ts'
import { useProject } from '../store/project-store.ts'

type State =
  | { is: 'idle' }
  | { is: 'running'; share: number; cancel: () => void }
  | { is: 'done'; spreads: Spread[]; times: number; raw: unknown }
  | { is: 'failed'; why: string }
const mostTimes = 200

/** The same drive again and again, each time with another seed: how far chance alone moves the figures. */
export function Repeat() {
  const state = useProject()!
  const chosen = useDevice(({ screen }) => screen)
  const visits = useDevice(({ visits }) => visits)
  const [times, setTimes] = useState(10)
  const [held, setHeld] = useState<State>({ is: 'idle' })
  const cancel = useRef<() => void>(() => undefined)
  useEffect(() => () => cancel.current(), [])
  const run = async () => {
    const { project, effective: raw, id } = state
    const screen = project.screens[Math.min(chosen, project.screens.length - 1)]!
    const items = await itemsToGive(id, screen)
    const visit = visits === 'all' ? 'first' : visits
    const job: Job<Spread[]> = proofWorker.ask(
      'repeat',
      {
        raw,
        screen: screen.id,
        script: project.script ?? '',
        seed: project.seed,
        visit,
        items,
        seen: seenPictures(),
        times,
      },
      (share) => setHeld({ is: 'running', share, cancel: job.cancel }),
    )
    cancel.current = job.cancel
    setHeld({ is: 'running', share: 0, cancel: job.cancel })
    setHeld({ is: 'done', spreads: await job.result, times, raw })
  }
  const start = () =>
    void run().catch((error: unknown) =>
      setHeld(
        error instanceof Cancelled
          ? { is: 'idle' }
          : { is: 'failed', why: error instanceof Error ? error.message : String(error) },
      ),
    )
  return (
    <Fold title="Other seeds">
      <div className="tt-source-line">
        <FormControl
          size="sm"
          type="number"
          className="tt-small-number"
          aria-label="How many times"
          min={2}
          max={mostTimes}
          value={times}
          onChange={(event) => setTimes(Math.min(mostTimes, Math.max(2, Math.round(Number(event.target.value)))))}
        />{' '}
        times
        {held.is === 'running' ? (
          <Button size="sm" variant="outline-secondary" onClick={held.cancel}>
            Cancel
          </Button>
        ) : (
          <Button size="sm" variant="outline-primary" onClick={start}>
            Simulate {times} seeds
          </Button>
        )}
      </div>
      {held.is === 'running' && <Progress name="Simulating with other seeds" share={held.share} />}
      {held.is === 'failed' && <p role="alert">It could not be simulated: {held.why}</p>}
      {held.is === 'done' && (
        <Table size="sm" className="tt-spreads" data-old={held.raw !== state.effective ? '' : undefined}>
          <caption>
            {held.raw === state.effective
              ? `Medians of ${held.times} runs, 95 % sure`
              : 'With the settings as they were'}
          </caption>
          <tbody>
            {headline
              .flatMap(({ id }) => held.spreads.filter(({ metric }) => metric === id))
              .map((spread) => {
                const figure = figureOf(spread.metric)
                const format = (value: number) => figure.form(value).text
                return (
                  <tr
                    key={spread.metric}
                    tabIndex={0}
                    data-explain={`from ${format(spread.least)} to ${format(spread.most)} in all runs`}
                  >
                    <th scope="row">{figure.name}</th>
                    <td>
                      <strong>{format(spread.median)}</strong> {figure.form(spread.median).unit}
                    </td>
                    <td>
                      {format(spread.low)} … {format(spread.high)}
                    </td>
                  </tr>
                )
              })}
          </tbody>
        </Table>
      )}
      {held.is === 'idle' && <p className="tt-quiet">One run may be luck. Many show what is typical.</p>}
    </Fold>
  )
}
