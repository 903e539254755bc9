import { useEffect, useState, type ReactNode } from 'react'
import Button from 'react-bootstrap/Button'
import FormSelect from 'react-bootstrap/FormSelect'
import { keepsBudget } from '../../core/compare/budgets.ts'
import type { TinyMap as Tiny } from '../../core/profile/views/tiny-map.ts'
import { namesOf, withSettings, type Setting } from '../../core/sweep/setting.ts'
import type { SweepRow } from '../../core/sweep/sweep-row.ts'
import patches from 'fast-json-patch'
import { Chip } from '../controls/Chip.tsx'
import { Progress } from '../controls/Progress.tsx'
import { useDevice } from '../device/device-store.ts'
import { deltas } from '../runs/figures.ts'
import { TinyMap } from '../runs/TinyMap.tsx'
import { Cancelled } from '../simulate/worker-client.ts'
import { MeasuringPool } from '../simulate/worker-pool.ts'
import { edit, tell, useProject } from '../store/project-store.ts'
import { measureAt } from './measure-now.ts'

interface Pair {
  device: string
  network: string
  row: SweepRow
  tiny: Tiny
}

/** Seeds of each pair. */
const seeds = 5

/** The settings as they are on every device and network, the worst pair told first. */
export function MatrixPart({ parts }: { parts: ReactNode }) {
  const state = useProject()!
  const { project } = state
  const chosen = useDevice(({ screen }) => screen)
  const screen = project.screens[Math.min(chosen, project.screens.length - 1)]!
  const [held, setHeld] = useState<{ of: unknown; pairs: Pair[] }>({ of: null, pairs: [] })
  const [pool, setPool] = useState<MeasuringPool | null>(null)
  const [trouble, setTrouble] = useState<string | null>(null)
  useEffect(() => () => pool?.cancel(), [pool])
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set())
  const [variant, setVariant] = useState('')
  const known = { device: namesOf('device', state.raw), network: namesOf('network', state.raw) }
  const variants = project.variants.map(({ name }) => name)
  const devices = known.device.filter((name) => !left.has(`device ${name}`))
  const networks = known.network.filter((name) => !left.has(`network ${name}`))
  const toggle = (name: string) =>
    setLeft((before) => {
      const next = new Set(before)
      if (!next.delete(name)) next.add(name)
      return next
    })
  const all = devices.length * networks.length
  const pairs = held.pairs
  const run = async () => {
    const mine = new MeasuringPool()
    setPool(mine)
    setTrouble(null)
    setHeld({ of: state.effective, pairs: [] })
    try {
      await Promise.all(
        devices.flatMap((device) =>
          networks.map(async (network) => {
            const settings: Setting[] = [
              { path: 'device', value: device },
              { path: 'network', value: network },
              ...(variant === '' ? [] : [{ path: 'variant', value: variant }]),
            ]
            const place = { screen: screen.id, visit: 'first' as const }
            const { row, tiny } = await measureAt(mine, state, place, settings, project.seed, seeds)
            setHeld((now) => ({ ...now, pairs: [...now.pairs, { device, network, row, tiny }] }))
          }),
        ),
      )
    } catch (error) {
      mine.cancel()
      if (!(error instanceof Cancelled)) setTrouble(error instanceof Error ? error.message : String(error))
    }
    setPool(null)
  }
  const budgets = project.budgets.filter(
    ({ visit, screen: own }) => visit === 'first' && (own ?? project.screens[0]!.id) === screen.id,
  )
  const breaks = ({ row }: Pair) => budgets.filter((budget) => !keepsBudget(budget, row.metrics)).length
  const holes = ({ row }: Pair) => row.metrics['pictures.holeShare']?.median ?? 0
  const worst = pairs.toSorted((one, other) => breaks(other) - breaks(one) || holes(other) - holes(one))[0]
  const use = ({ device, network }: Pair) => {
    const varied = withSettings(state.raw, [
      { path: 'device', value: device },
      { path: 'network', value: network },
    ])
    if (!varied.ok) return tell(varied.message)
    edit(`${device} and ${network}`, patches.compare(state.raw, varied.raw))
  }
  return (
    <div className="tt-step tt-sweep">
      <h1>Compare · devices and networks</h1>
      {parts}
      <div className="tt-source-line">
        {pool ? (
          <>
            <Progress name="Simulating each pair" share={pairs.length / all} />
            <Button size="sm" variant="outline-secondary" onClick={() => pool.cancel()}>
              Cancel
            </Button>
          </>
        ) : (
          <Button size="sm" disabled={all === 0} onClick={() => void run()}>
            Run {devices.length} × {networks.length} · {all * seeds} simulations
          </Button>
        )}
        {worst && !pool && (
          <span role="status">
            Worst: {worst.device} on {worst.network}, {(100 * holes(worst)).toFixed(0)} % holes
            {breaks(worst) > 0 ? `, ${breaks(worst)} of ${budgets.length} budgets broken` : ''}.
          </span>
        )}
      </div>
      {trouble && (
        <p className="tt-saving" role="alert">
          The pairs could not be simulated: {trouble}
        </p>
      )}
      {held.of !== null && held.of !== state.effective && pairs.length > 0 && (
        <p className="tt-saving" role="status">
          The settings have changed since: these are the figures of before.
        </p>
      )}
      <div className="tt-source-line">
        {(['device', 'network'] as const).map((kind) => (
          <div key={kind} className="tt-swatches" role="group" aria-label={kind === 'device' ? 'Devices' : 'Networks'}>
            {known[kind].map((name) => (
              <Chip
                key={name}
                disabled={pool !== null}
                aria-pressed={!left.has(`${kind} ${name}`)}
                onClick={() => toggle(`${kind} ${name}`)}
              >
                {name}
              </Chip>
            ))}
          </div>
        ))}
        {variants.length > 0 && (
          <label className="tt-axis-pick">
            with{' '}
            <FormSelect size="sm" value={variant} onChange={(event) => setVariant(event.target.value)}>
              <option value="">the settings as they are</option>
              {variants.map((name) => (
                <option key={name}>{name}</option>
              ))}
            </FormSelect>
          </label>
        )}
      </div>
      {pairs.length === 0 && !pool && (
        <p className="tt-card">
          The settings as they are, on each device with each network: which pair is worst, and whether the budgets hold
          there. A pair that is clicked becomes the device and network in use.
        </p>
      )}
      {pairs.length > 0 && (
        <section
          className="tt-card tt-small-grid tt-matrix"
          aria-label="Each device on each network"
          style={{ gridTemplateColumns: `92px repeat(${networks.length}, minmax(0, 1fr))` }}
        >
          <span />
          {networks.map((network) => (
            <strong key={network}>{network}</strong>
          ))}
          {devices.flatMap((device) => [
            <strong key={device}>{device}</strong>,
            ...networks.map((network) => {
              const pair = pairs.find((each) => each.device === device && each.network === network)
              if (!pair) return <span key={`${device} ${network}`} className="tt-quiet" />
              const told = deltas
                .map(({ id, word, form }) => {
                  const median = pair.row.metrics[id]?.median
                  return median === undefined ? `${word} –` : `${form(median).text} ${form(median).unit} ${word}`
                })
                .join(' · ')
              return (
                <button
                  key={`${device} ${network}`}
                  type="button"
                  className="tt-small-map"
                  aria-pressed={project.device.name === device && project.network.name === network}
                  aria-label={`${device} on ${network}: ${told}${breaks(pair) > 0 ? ', breaks a budget' : ''}`}
                  data-front={pair === worst ? '' : undefined}
                  onClick={() => use(pair)}
                >
                  <TinyMap tiny={pair.tiny} />
                  <small>
                    {breaks(pair) > 0 ? '■ ' : ''}
                    {told}
                  </small>
                </button>
              )
            }),
          ])}
        </section>
      )}
    </div>
  )
}
