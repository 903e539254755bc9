import { EventReader } from '../../log/event-reader.ts'
import type { RunLog } from '../../log/run-log.ts'
import { unitsPerDp } from '../../numbers/units.ts'

const ms = (us: number) => us / 1000

/**
 * A run as the app events that an app could have sent (formats.md, App events): a head line, then an event a line. Rows
 * have the height that they had when they were bound.
 */
export function* appEventsOf(log: RunLog): Generator<string> {
  const { head } = log
  yield line({
    format: 'tile-tug/app-events',
    version: 1,
    app: head.project,
    refreshHz: head.refreshHz,
    widthDp: head.widthDp,
    heightDp: head.heightDp,
    clockMs: 0,
  })
  const written: Record<string, unknown>[] = []
  const heights = new Map<number, number>()
  const requestAssets: number[] = []
  const transferRequests: number[] = []
  /** Requests whose body is there: their class does not matter any more. */
  const came = new Set<number>()
  const addressOf = (asset: number) => log.assets[asset]!.address
  const addressOfRequest = (request: number) => addressOf(requestAssets[request]!)
  const addressOfRendition = (rendition: number) => addressOf(log.renditions[rendition]!.asset)
  /** The bind of each cell, which the first claim of it completes. */
  const bound = new Map<number, Record<string, unknown>>()
  const tiers = new Map<number, string>()
  /** The claim of each slot, and claims whose small picture is shown until a larger one arrives. */
  const claims = new Map<string, number>()
  const small = new Set<number>()
  const cellOf = new Map<number, number>()
  let frame: Record<string, unknown> | null = null
  const add = (t: number, event: string, fields: Record<string, unknown>) => {
    const made = { t: ms(t), event, ...fields }
    written.push(made)
    return made
  }
  new EventReader(log, {
    frame: ({ t, begin, due, presented }) => {
      frame = add(t, 'frame', { presentedMs: ms(presented), dueMs: ms(due), workMs: 0, beginMs: ms(begin) })
    },
    work: ({ ms: us }) => {
      if (frame) frame.workMs = Math.round((frame.workMs as number) * 1000 + us) / 1000
    },
    scroll: ({ t, top }) => add(t, 'scroll', { topDp: top / unitsPerDp }),
    place: ({ row, height }) => heights.set(row, height / unitsPerDp),
    create: ({ t, cell, kind }) => add(t, 'create', { cell, kind }),
    bind: ({ t, cell, key, row }) => {
      bound.set(cell, add(t, 'bind', { cell, row, key: log.strings[key] }))
    },
    recycle: ({ t, cell }) => add(t, 'recycle', { cell }),
    claim: ({ id, cell, slot, rendition }) => {
      if (cell === null) return
      claims.set(`${cell} ${slot}`, id)
      cellOf.set(id, cell)
      const bind = bound.get(cell)
      if (bind && slot === 0 && bind.address === undefined) bind.address = addressOfRendition(rendition)
    },
    release: ({ id, why }) => {
      if (why === 'larger') small.add(id)
    },
    queue: ({ t, request, asset }) => {
      requestAssets[request] = asset
      add(t, 'want', { address: addressOf(asset) })
    },
    rank: ({ t, request, class: rank }) => {
      if (!came.has(request)) add(t, 'want', { address: addressOfRequest(request), priority: rank })
    },
    start: ({ t, request, transfer }) => {
      transferRequests[transfer] = request
      add(t, 'start', { address: addressOfRequest(request) })
    },
    received: ({ t, transfer, bytes }) => {
      came.add(transferRequests[transfer]!)
      add(t, 'received', { address: addressOfRequest(transferRequests[transfer]!), bytes })
    },
    diskRead: ({ t, request, asset }) => {
      came.add(request)
      add(t, 'received', { address: addressOf(asset), bytes: 0 })
    },
    cancel: ({ t, request, bytes }) => add(t, 'cancel', { address: addressOfRequest(request), bytes }),
    fail: ({ t, transfer, request, reason }) =>
      add(t, 'fail', { address: addressOfRequest(request ?? transferRequests[transfer!]!), reason }),
    decodeEnd: ({ t, rendition, ms: us, ok }) => {
      const { width, height } = log.renditions[rendition]!
      if (ok)
        add(t, 'decode', { address: addressOfRendition(rendition), ms: us / 1000, widthPx: width, heightPx: height })
    },
    deliver: ({ t, claim, tier, rendition }) => {
      tiers.set(claim, tier)
      add(t, 'deliver', { address: addressOfRendition(rendition), tier, cell: cellOf.get(claim) })
    },
    show: ({ t, claim, rendition, cell, slot }) => {
      const isLate = claims.get(`${cell} ${slot}`) !== claim && !small.has(claim)
      const tier = tiers.get(claim) ?? 'network'
      add(t, 'show', { cell, address: addressOfRendition(rendition), tier, ...(isLate ? { late: true } : {}) })
    },
    wrong: ({ t, cell, rendition }) => {
      const address = addressOfRendition(rendition)
      const last = written.at(-1)
      // A late picture is shown and then found to be another item's: an app reports that once.
      if (last?.event !== 'show' || last.cell !== cell || last.address !== address) add(t, 'show', { cell, address })
    },
    memory: ({ t, resident }) => add(t, 'memory', { mb: resident / 1000 }),
    note: ({ t, text }) => add(t, 'mark', { text }),
    end: ({ t, why }) => add(t, 'mark', { text: `end: ${why}` }),
  }).readAll()
  // Rows were placed after they were bound: their heights are known now.
  for (const event of written) {
    if (event.event === 'bind') event.heightDp = heights.get(event.row as number)
    yield line(event)
  }
}

const line = (value: Record<string, unknown>) => `${JSON.stringify(value)}\n`
