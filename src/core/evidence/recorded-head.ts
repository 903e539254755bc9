import type { Observation } from '../log/observed.ts'
import type { RunHead } from '../log/run-log.ts'
import type { AppHead } from './app-event.ts'
import type { EvidenceEvent, Exchange } from './evidence.ts'

/** Limits of an app are not known: none that a run could reach. */
const noLimit = 1_000_000_000

/** What is known of a recorded run as a whole. */
export interface RecordedWhole {
  events: readonly EvidenceEvent[]
  exchanges: readonly Exchange[]
  appHead: AppHead | null
  refreshHz: number
  columns: number
}

/** The head of a recorded run's log: where it comes from, what its sources report, and no limits of its own. */
export function recordedHead(
  { events, exchanges, appHead, refreshHz, columns }: RecordedWhole,
  { project, screen }: { project: string; screen: string },
): RunHead {
  return {
    world: 'recorded',
    observed: [...observedBy(events, exchanges)].toSorted(),
    seed: 0,
    visit: 'first',
    project: appHead?.app ?? project,
    screen,
    script: 'recorded',
    refreshHz,
    heightDp: appHead?.heightDp ?? 800,
    widthDp: appHead?.widthDp ?? 360,
    diskStartBytes: startOfStorage(events),
    policy: {
      fetchSlots: noLimit,
      fetchSlotsPerHost: noLimit,
      decodeWorkers: noLimit,
      memoryMb: noLimit,
      diskMb: noLimit,
      guard: false,
      resetOnBind: false,
      heldCells: 0,
      restraint: true,
      agingMs: noLimit,
      columns,
    },
  }
}

function observedBy(events: readonly EvidenceEvent[], exchanges: readonly Exchange[]): Set<Observation> {
  const names = new Set<string>(events.map(({ event }) => event))
  const observed = new Set<Observation>()
  const add = (what: Observation, is: boolean) => {
    if (is) observed.add(what)
  }
  add('frames', names.has('frame'))
  add(
    'work',
    events.some((event) => event.event === 'frame' && event.workMs !== undefined),
  )
  add('scroll', names.has('scroll'))
  add(
    'binds',
    events.some((event) => event.event === 'bind' && event.address !== undefined),
  )
  add('shows', names.has('show'))
  add('requests', exchanges.length > 0 || ['start', 'received', 'cancel', 'fail'].some((name) => names.has(name)))
  add('wants', names.has('want') || observed.has('binds') || exchanges.some(({ request }) => request !== null))
  add(
    'tiers',
    exchanges.some(({ fromCache }) => fromCache) ||
      names.has('deliver') ||
      events.some((event) => event.event === 'show' && event.tier !== undefined),
  )
  add('decodes', names.has('decode'))
  add('creates', names.has('create'))
  add('memory', names.has('memory'))
  add('collected', names.has('collected'))
  add('storage', names.has('storage'))
  const busy = events.flatMap((event) => (event.event === 'busy' ? [event.thread] : []))
  add('mainBusy', observed.has('work') || busy.some((thread) => /^(main|ui)\b/i.test(thread)))
  add(
    'decodeBusy',
    busy.some((thread) => /decod/i.test(thread)),
  )
  return observed
}

/** Bytes that were stored before the run, as the user has typed them in. */
function startOfStorage(events: readonly EvidenceEvent[]): number {
  const storage = events.find((event) => event.event === 'storage')
  return storage ? Math.round(storage.beforeMb * 1e6) : 0
}
