import { useEffect, useState, type ReactNode } from 'react'
import Button from 'react-bootstrap/Button'
import FormSelect from 'react-bootstrap/FormSelect'
import { useSearchParams } from 'react-router'
import { budgetsAt, keepsBudget } from '../../core/compare/budgets.ts'
import type { TinyMap as Tiny } from '../../core/profile/views/tiny-map.ts'
import { namesOf, withSettings, type Setting } from '../../core/sweep/setting.ts'
import { worstFirst } from '../../core/sweep/sorted-rows.ts'
import type { SweepRow } from '../../core/sweep/sweep-row.ts'
import patches from 'fast-json-patch'
import { Chip } from '../controls/Chip.tsx'
import { Progress } from '../controls/Progress.tsx'
import { useDevice } from '../device/device-store.ts'
import { deltas } from '../runs/figures.ts'
import { TinyMap } from '../runs/TinyMap.tsx'
import { Cancelled } from '../simulate/worker-client.ts'
import { MeasuringPool } from '../simulate/worker-pool.ts'
import { edit, notify, useProject } from '../store/project-store.ts'
import { useOwnPresets } from '../store/own-presets.ts'
import { useBaselineFigures } from '../store/run-store.ts'
import { FigureLines } from './FigureLines.tsx'
import { measureAt } from './measure-now.ts'
import { mediansOf, figureWords } from './words.ts'

/** The simulation of a pair: with the present settings, or with a variant. */
interface Side {
  variant: string | null
  row: SweepRow
  tiny: Tiny
}

interface Pair {
  device: string
  network: string
  sides: Side[]
}

/** Seeds of each pair. */
const seeds = 5

/**
 * The present settings, and a variant beside them where one is chosen, on every device and network, the worst pair
 * first.
 */
export function MatrixPart({ parts }: { parts: ReactNode }) {
  const state = useProject()!
  const { project } = state
  const chosen = useDevice(({ screen }) => screen)
  const screen = project.screens[Math.min(chosen, project.screens.length - 1)]!
  const [held, setHeld] = useState<{ of: unknown; pairs: Pair[] }>({ of: null, pairs: [] })
  const [pool, setPool] = useState<MeasuringPool | null>(null)
  const [trouble, setTrouble] = useState<string | null>(null)
  const place = { screen: screen.id, visit: 'first' as const }
  useEffect(() => () => pool?.cancel(), [pool])
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set())
  const [query, setQuery] = useSearchParams()
  const named = query.get('variant')
  const variant = project.variants.some(({ name }) => name === named) ? named : null
  const own = { device: useOwnPresets('device'), network: useOwnPresets('network') }
  const namesAt = (kind: 'device' | 'network') => [
    ...new Set([...namesOf(kind, state.raw), ...(own[kind] ?? []).map(({ name }) => name)]),
  ]
  const known = { device: namesAt('device'), network: namesAt('network') }
  /** A device and a network by their names; those of your own bring their values along. */
  const settingsOf = (names: { device: string; network: string }): Setting[] =>
    (['device', 'network'] as const).map((path) => {
      const preset = namesOf(path, state.raw).includes(names[path])
        ? undefined
        : own[path]?.find(({ name }) => name === names[path])
      return { path, value: preset ? { name: preset.name, values: preset.values } : names[path] }
    })
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
  const simulations = all * seeds * (variant === null ? 1 : 2)
  // A pair that was left out since is not shown, nor named as the worst.
  const pairs = held.pairs.filter(({ device, network }) => devices.includes(device) && networks.includes(network))
  const run = async () => {
    const ownPool = new MeasuringPool()
    setPool(ownPool)
    setTrouble(null)
    setHeld({ of: state.effective, pairs: [] })
    try {
      await Promise.all(
        devices.flatMap((device) =>
          networks.map(async (network) => {
            const pair = settingsOf({ device, network })
            const sides = await Promise.all(
              (variant === null ? [null] : [null, variant]).map(async (name): Promise<Side> => {
                const settings = name === null ? pair : [...pair, { path: 'variant', value: name }]
                const { row, tiny } = await measureAt(ownPool, state, place, settings, project.seed, seeds)
                return { variant: name, row, tiny }
              }),
            )
            setHeld((now) => ({ ...now, pairs: [...now.pairs, { device, network, sides }] }))
          }),
        ),
      )
    } catch (error) {
      ownPool.cancel()
      if (!(error instanceof Cancelled)) setTrouble(error instanceof Error ? error.message : String(error))
    }
    setPool(null)
  }
  const budgets = budgetsAt(project, place.screen, place.visit)
  const baseline = useBaselineFigures()(place)
  const breaks = ({ row }: Side) => budgets.filter((budget) => !keepsBudget(budget, row.metrics, baseline)).length
  const ordered = worstFirst(
    pairs.flatMap(({ device, network, sides }) =>
      sides.map(({ variant: name, row }) => ({ device, network, variant: name, row })),
    ),
    { budgets, baseline },
  )
  const [worst] = ordered
  // Sorting while pairs are still to come would move the others about.
  const inOrder = (names: readonly string[], kind: 'device' | 'network') =>
    pool === null ? [...new Set([...ordered.map((each) => each[kind]), ...names])] : names
  const use = ({ device, network }: Pair) => {
    const varied = withSettings(state.raw, settingsOf({ device, network }))
    if (!varied.ok) return notify(varied.message)
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
            Run {devices.length} × {networks.length} · {simulations} simulations
          </Button>
        )}
        {worst && !pool && (
          <span role="status">
            Worst: {worst.device} on {worst.network}
            {worst.variant === null ? '' : ` with ${worst.variant}`}, {mediansOf(deltas, worst.row.metrics)}
            {worst.broken > 0 ? `, ${worst.broken} of ${budgets.length} budgets broken` : ''}.
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
          The settings have changed since: these are the earlier figures.
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
            beside{' '}
            <FormSelect
              size="sm"
              value={variant ?? ''}
              disabled={pool !== null}
              onChange={({ target: { value } }) =>
                setQuery({ part: 'matrix', ...(value !== '' && { variant: value }) }, { replace: true })
              }
            >
              <option value="">no variant</option>
              {variants.map((name) => (
                <option key={name}>{name}</option>
              ))}
            </FormSelect>
          </label>
        )}
      </div>
      {pairs.length === 0 && !pool && (
        <p className="tt-card">
          The settings as they are, and a variant beside them if you choose one, on each device with each network: which
          pair is worst, and whether the budgets hold there. A pair that is clicked becomes the device and network in
          use.
        </p>
      )}
      {pairs.length > 0 && (
        <section
          className="tt-card tt-small-grid tt-matrix"
          aria-label="Each device on each network"
          style={{ gridTemplateColumns: `92px repeat(${networks.length}, minmax(0, 1fr))` }}
        >
          <span />
          {inOrder(networks, 'network').map((network) => (
            <strong key={network}>{network}</strong>
          ))}
          {inOrder(devices, 'device').flatMap((device) => [
            <strong key={device}>{device}</strong>,
            ...inOrder(networks, 'network').map((network) => {
              const key = `${device} ${network}`
              const pair = pairs.find((each) => each.device === device && each.network === network)
              if (!pair) return <span key={key} className="tt-quiet" />
              const sides = pair.sides
                .map((side) => {
                  const name = side.variant === null ? '' : `${side.variant}, `
                  return `${name}${figureWords(deltas, side.row.metrics)}${breaks(side) > 0 ? ', breaks a budget' : ''}`
                })
                .join('; ')
              return (
                <button
                  key={key}
                  type="button"
                  className="tt-small-map tt-pair"
                  aria-pressed={project.device.name === device && project.network.name === network}
                  aria-label={`${device} on ${network}: ${sides}`}
                  data-front={worst?.device === device && worst.network === network ? '' : undefined}
                  onClick={() => use(pair)}
                >
                  {pair.sides.map((side) => (
                    <span key={side.variant ?? ''}>
                      {pair.sides.length > 1 && <strong>{side.variant ?? 'as it is'}</strong>}
                      <TinyMap tiny={side.tiny} />
                      {budgets.length > 0 && (
                        <small>
                          {breaks(side) === 0
                            ? 'budgets held'
                            : `■ ${breaks(side)} of ${budgets.length} budgets broken`}
                        </small>
                      )}
                      <FigureLines metrics={side.row.metrics} />
                    </span>
                  ))}
                </button>
              )
            }),
          ])}
        </section>
      )}
    </div>
  )
}
