import { judgeBudget, type BudgetResult } from '../compare/budgets.ts'
import { changeOf, type Change } from '../compare/prove.ts'
import { valueAt } from '../feed/json-pointer.ts'
import { comparedIds, effectOf, isMetricId, type Metrics } from '../profile/figures/metric-definitions.ts'
import { mapOf, type MapData } from '../profile/views/map-data.ts'
import { measureRun } from '../profile/profile.ts'
import type { Raw } from '../project/parse.ts'
import { policyPresets } from '../project/presets.ts'
import { settingAt } from '../project/settings-index.ts'
import type { Item, Project, Visit } from '../project/types.ts'
import { simulateVisits } from '../simulate/visits.ts'
import { projectWith, type Setting } from '../sweep/setting.ts'
import { slotLinesOf } from './slot-instructions.ts'
import { instructions, places, stepsOf, type Place } from './instructions.ts'

/** A plain loader without any thought given to it: every line is compared with it. Other settings are the defaults. */
const plain = {
  ...policyPresets.find(({ name }) => name === 'Wired up by hand')!.values,
  diskMb: 0,
  standIn: false,
  retry: { attempts: 0 },
}

export interface SheetLine {
  /** Identifies this line: one setting may occur at several places. */
  id: string
  path: string
  label: string
  /** With its unit. */
  value: string
  plain: string
  say: string
  reason: string
  /** The effect of this setting alone against the plain value; null: no difference was seen, it was decided by hand. */
  proof: Change | null
  /** The setting of a plain loader, which the proof compares with. */
  without: Setting
  /** The user's comment. */
  comment?: string
}

export interface Sheet {
  project: string
  screen: string
  script: string
  device: string
  network: string
  seeds: number
  groups: { place: Place; lines: SheetLine[] }[]
  steps: { at: string; steps: string[] }[]
  granted: string[]
  budgets: (BudgetResult & { margin: number | null })[]
  /** Common mistakes that the plain loader makes and this policy does not. */
  mended: string[]
  notLookedAt: string[]
  /** The plain loader's map, and this one's, on the first seed. */
  maps: { before: MapData; after: MapData } | null
}

export interface SheetOrder {
  raw: Raw
  screen: string
  script: string
  seeds: number
  /** Items of feeds that the project names but does not hold, by screen. */
  items: ReadonlyMap<string, readonly Item[] | null>
}

/** Reports progress, and yields to other work; false: it was cancelled. */
export type SheetHook = (share: number) => Promise<boolean>

/**
 * What an app developer needs to know: every setting that differs from a plain loader, where it belongs, and its
 * effect. Null: cancelled.
 */
export async function sheetOf(order: SheetOrder, hook: SheetHook = () => Promise.resolve(true)): Promise<Sheet | null> {
  const now = parsed(order, [])
  const { project } = now
  const screen = project.screens.find(({ id }) => id === order.screen)!
  const differing = instructions.filter(
    ({ path }) => JSON.stringify(valueAt(project, path)) !== JSON.stringify(plainAt(path)),
  )
  const ofSlots = slotLinesOf(screen, project.screens.indexOf(screen))
  const measuredPaths = new Set([
    ...differing.map(({ path }) => path),
    ...ofSlots.flatMap(({ path, instruction }) => (instruction.isMeasured ? [path] : [])),
  ])
  const rounds = (measuredPaths.size + 2) * order.seeds
  let done = 0
  const measure = async (settings: readonly Setting[], visit: Visit = 'first', screenId = order.screen) => {
    const made = parsed(order, settings).project
    const metrics: Metrics[] = []
    let map: MapData | null = null
    for (let n = 0; n < order.seeds; n++) {
      const [run] = simulateVisits(made, [visit], {
        screen: screenId,
        script: order.script,
        seed: project.seed + n,
        items: order.items.get(screenId) ?? null,
      })
      const measured = measureRun(run!.log)
      map ??= mapOf(measured.facts, measured.ledger)
      metrics.push(measured.metrics)
      if (!(await hook(Math.min(1, ++done / rounds)))) return null
    }
    return { metrics, map: map! }
  }
  const after = await measure([])
  const before = after && (await measure(differing.map(({ path }) => ({ path, value: plainAt(path) }))))
  if (!before) return null
  const lines: (SheetLine & { place: Place })[] = []
  const proofs = new Map<string, Change | null>()
  /** The effect of a setting alone against its plain value; undefined: it was cancelled. */
  const proofOf = async (path: string, value: unknown) => {
    const before = proofs.get(path)
    if (before !== undefined) return before
    const without = await measure([{ path, value }])
    if (!without) return undefined
    const proof = strongest(without.metrics, after.metrics, project.seed)
    proofs.set(path, proof)
    return proof
  }
  for (const { path, of, instruction, slot } of ofSlots) {
    const { place, label, reason, isMeasured, is, format, say } = instruction
    const value = instruction.plain(slot)
    const proof = isMeasured ? await proofOf(path, value) : null
    if (proof === undefined) return null
    lines.push({
      id: path,
      path,
      place,
      label: `${of}, ${label.toLowerCase()}`,
      value: format(is(slot) as never),
      plain: format(value as never),
      say: say(slot),
      reason,
      proof,
      without: { path, value },
    })
  }
  for (const { path, place, say } of differing) {
    const proof = await proofOf(path, plainAt(path))
    if (proof === undefined) return null
    const { label, unit, explain } = settingAt(path)
    lines.push({
      id: lines.some((line) => line.path === path) ? `${path} at ${place}` : path,
      path,
      place,
      label,
      value: formatValue(valueAt(project, path), unit),
      plain: formatValue(plainAt(path), unit),
      say: say(project.loading),
      reason: explain,
      without: { path, value: plainAt(path) },
      proof,
    })
  }
  const budgets: Sheet['budgets'] = []
  for (const budget of project.budgets.filter(({ metric }) => isMetricId(metric))) {
    if (budget.relativeTo !== undefined) continue
    const own = budget.screen ?? project.screens[0]!.id
    const isMeasured = budget.visit === 'first' && own === order.screen
    const measured = isMeasured ? after : await measure([], budget.visit, own)
    if (!measured) return null
    const result = judgeBudget(budget, measured.metrics, null)
    const limit = budget.max ?? budget.min
    const margin =
      result.value === null || limit === undefined || limit === 0
        ? null
        : Math.abs(limit - result.value) / Math.abs(limit)
    budgets.push({ ...result, margin })
  }
  return {
    project: project.name,
    screen: screen.name || screen.id,
    script: order.script,
    device: project.device.name,
    network: project.network.name,
    seeds: order.seeds,
    groups: places.flatMap((place) => {
      const own = lines.filter((line) => line.place === place)
      return own.length > 0 ? [{ place, lines: own }] : []
    }),
    steps: stepsOf(project),
    granted: grantedOf(project),
    budgets,
    mended: mistakesOf(lines),
    notLookedAt: [
      'Memory and battery of a real phone: costs of the device and the network are illustrative until they are fitted to a recording.',
      ...project.screens
        .filter(({ id }) => id !== order.screen)
        .map((each) => `The screen “${each.name || each.id}”: this sheet was made on “${screen.name || screen.id}”.`),
      ...project.budgets
        .filter(({ relativeTo }) => relativeTo !== undefined)
        .map(({ metric }) => `The budget of ${metric} over the baseline: “tug check --against” holds it.`),
      ...project.scripts.filter(({ name }) => name !== order.script).map(({ name }) => `The gesture “${name}”.`),
    ],
    maps: { before: before.map, after: after.map },
  }
}

function parsed({ raw }: SheetOrder, settings: readonly Setting[]) {
  const outcome = projectWith(raw, settings)
  if (!outcome.ok) throw new Error(outcome.message)
  return outcome
}

/** The value that a plain loader has for a setting. */
export const plainAt = (path: string) => valueAt({ loading: plain }, path) ?? settingAt(path).default ?? null

function formatValue(value: unknown, unit: string): string {
  if (value === null) return 'none'
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (typeof value === 'number')
    return unit === 'share' ? `${Math.round(100 * value)} %` : `${value}${unit ? ` ${unit}` : ''}`
  return String(value).replaceAll('-', ' ')
}

/** The change with the greatest weight among the certain improvements; null: there is none. */
function strongest(before: readonly Metrics[], after: readonly Metrics[], seed: number): Change | null {
  const changes = comparedIds.flatMap((metric) => changeOf(metric, before, after, seed) ?? [])
  const weight = ({ metric, difference }: Change) => {
    const effect = effectOf(metric)
    return (effect.weight * Math.abs(difference.median)) / effect.scale
  }
  return changes.filter(({ is }) => is === 'better').sort((one, other) => weight(other) - weight(one))[0] ?? null
}

/** What the app must be granted before any of it works. Secrets are not in it, only their names. */
function grantedOf({ device, loading, screens }: Project): string[] {
  const { granted } = device
  return [
    ...(granted.network ? ['The permission to use the network.'] : []),
    ...(granted.storage && loading.diskMb > 0 ? [`Storage for ${loading.diskMb} MB of pictures.`] : []),
    ...loading.cleartextHosts.map((host) => `Cleartext http to ${host}: the platform refuses it by default.`),
    ...loading.headers.map(
      ({ host, name, scheme, secret }) =>
        `The header ${name} for ${host}: ${scheme === '' ? '' : `${scheme} and `}the token that is kept under the name “${secret}”.`,
    ),
    ...(screens.some(({ feed }) => feed.source.type === 'url') ? ['The address of the feed, with its pages.'] : []),
  ]
}

const mistakes: Record<string, string> = {
  '/loading/guard': 'A late picture was shown in a cell that had moved on to another item.',
  '/loading/resetOnBind': 'A recycled cell showed the former item’s picture until its own had arrived.',
  '/loading/cancel/when': 'Downloads continued for cells that had been recycled.',
  '/loading/share': 'The same address was downloaded again while it was already on its way.',
  '/loading/decodeOn': 'Pictures were decoded on the main thread.',
  '/loading/setup': 'The loader was made again and again.',
}

/** By the last part of the setting's pointer. */
const slotMistakes: Record<string, string> = {
  '/size': 'A slot had no frame before its picture came, and the list jumped when it did.',
  '/decodeAt': 'Pictures were decoded at the size in which they are sent, however small they are shown.',
}

const mistakesOf = (lines: readonly SheetLine[]) => [
  ...new Set(lines.flatMap(({ path }) => mistakes[path] ?? slotMistakes[path.slice(path.lastIndexOf('/'))] ?? [])),
]
