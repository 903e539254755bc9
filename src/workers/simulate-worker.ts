import { compareOnSeeds } from '../core/compare/prove.ts'
import { repeatOnSeeds } from '../core/compare/repeat.ts'
import { eventsAsCsv, listEvents } from '../core/log/event-list.ts'
import { decodeLog, type EncodedLog } from '../core/log/log-encoding.ts'
import { Playback, type PlayedScreen } from '../core/profile/views/playback.ts'
import { toNdjson } from '../core/log/ndjson.ts'
import { tellCell, tellItem } from '../core/profile/stories/cell-stories.ts'
import { ledgerTable } from '../core/profile/figures/ledger-table.ts'
import type { Profile } from '../core/profile/profile.ts'
import { tellRequest } from '../core/profile/stories/stories.ts'
import type { Answer, FromWorker, ToWorker } from './messages.ts'
import { checkFeed, knownItems } from '../core/simulate/feed-check.ts'
import { readFeedJob, readPicturesJob } from './feed-jobs.ts'
import { ListReceiver } from './shared-lists.ts'
import { trackLoad } from './track-job.ts'
import { describeLive, findJob, followJob, lensOf, openLog, simulateJob } from './run-jobs.ts'

declare const self: DedicatedWorkerGlobalScope

const cancelled = new Set<number>()
const lists = new ListReceiver()
const channel = new MessageChannel()
/** Runs that are played back, by hash: as many as stand beside each other in Compare. */
const playing = new Map<string, Playback>()
const mostPlaying = 6
let opened: { hash: string; profile: Profile } | null = null

self.onmessage = (event: MessageEvent<ToWorker>) => {
  const message = event.data
  if (message.type === 'cancel') cancelled.add(message.id)
  else if (message.type === 'list') lists.take(message)
  else void start(message)
}

async function start({ id, job: sent }: Extract<ToWorker, { type: 'start' }>): Promise<void> {
  const tell = (message: FromWorker) =>
    self.postMessage(message, message.type === 'done' ? buffersIn(message.answer) : [])
  try {
    const job = lists.attach(sent)
    switch (job.do) {
      case 'simulate': {
        const runs = await simulateJob(job, {
          cancelled: () => cancelled.has(id),
          rest,
          progress: (share) => tell({ id, type: 'progress', share }),
          now: () => performance.now(),
        })
        tell(runs ? { id, type: 'done', answer: { is: 'runs', runs } } : { id, type: 'cancelled' })
        break
      }
      case 'follow': {
        const followed = await followJob(job, {
          cancelled: () => cancelled.has(id),
          rest,
          progress: () => undefined,
          now: () => performance.now(),
        })
        tell(followed ? { id, type: 'done', answer: followed } : { id, type: 'cancelled' })
        break
      }
      case 'describe':
        tell({ id, type: 'done', answer: { is: 'runs', runs: [describeLive(job)] } })
        break
      case 'story': {
        const { facts, ledger } = profileOf(job)
        tell({ id, type: 'done', answer: { is: 'story', story: tellRequest(facts, ledger, job.request) } })
        break
      }
      case 'findings': {
        const proven = await findJob(job, profileOf(job), {
          rest,
          cancelled: () => cancelled.has(id),
          progress: (share) => tell({ id, type: 'progress', share }),
        })
        tell(proven ? { id, type: 'done', answer: { is: 'findings', proven } } : { id, type: 'cancelled' })
        break
      }
      case 'compare': {
        const order = { ...job, raw: job.a, seen: new Map(job.seen) }
        const changes = await compareOnSeeds(order, job.b, {
          rest,
          cancelled: () => cancelled.has(id),
          progress: (share) => tell({ id, type: 'progress', share }),
        })
        tell(changes ? { id, type: 'done', answer: { is: 'compared', changes } } : { id, type: 'cancelled' })
        break
      }
      case 'repeat': {
        const spreads = await repeatOnSeeds({ ...job, seen: new Map(job.seen) }, job.times, {
          rest,
          cancelled: () => cancelled.has(id),
          progress: (share) => tell({ id, type: 'progress', share }),
        })
        tell(spreads ? { id, type: 'done', answer: { is: 'repeated', spreads } } : { id, type: 'cancelled' })
        break
      }
      case 'play':
        tell({ id, type: 'done', answer: { is: 'played', ...play(job) } })
        break
      case 'lens':
        tell({
          id,
          type: 'done',
          answer: { is: 'lens', lens: lensOf(profileOf(job), job.which, job.within, job.only && new Set(job.only)) },
        })
        break
      case 'way': {
        const { facts } = profileOf(job)
        tell({
          id,
          type: 'done',
          answer: { is: 'way', story: job.of === 'cell' ? tellCell(facts, job.number) : tellItem(facts, job.number) },
        })
        break
      }
      case 'ledger':
        tell({
          id,
          type: 'done',
          answer: { is: 'ledger', table: ledgerTable(profileOf(job), job.only && new Set(job.only)) },
        })
        break
      case 'events':
        tell({
          id,
          type: 'done',
          answer: { is: 'events', page: listEvents(profileOf(job).facts.log, job.wish, job.most) },
        })
        break
      case 'export': {
        const { log } = profileOf(job).facts
        const file =
          job.as === 'csv'
            ? new Blob([eventsAsCsv(log, job.wish)], { type: 'text/csv' })
            : new Blob(
                [
                  ...toNdjson(log),
                  ...job.notes.map(({ ms, text }) => `${JSON.stringify({ event: 'note', t: ms, text })}\n`),
                ],
                { type: 'application/x-ndjson' },
              )
        tell({ id, type: 'done', answer: { is: 'file', file } })
        break
      }
      case 'track': {
        tell({
          id,
          type: 'done',
          answer: { is: 'track', track: trackLoad(job.project, job.project.screens[job.screen]!, job.item, job.slot) },
        })
        break
      }
      case 'read-feed': {
        const read = await readFeedJob(job, (share) => tell({ id, type: 'progress', share }))
        tell({ id, type: 'done', answer: { is: 'feed', read } })
        break
      }
      case 'read-pictures': {
        const pictures = await readPicturesJob(job, {
          cancelled: () => cancelled.has(id),
          progress: (share) => tell({ id, type: 'progress', share }),
        })
        tell(pictures ? { id, type: 'done', answer: { is: 'pictures', pictures } } : { id, type: 'cancelled' })
        break
      }
      case 'check-feed': {
        const screen = job.project.screens[job.screen]!
        tell({
          id,
          type: 'done',
          answer: {
            is: 'feed-check',
            check: checkFeed(job.project, screen, job.items ?? knownItems(screen.feed) ?? []),
          },
        })
      }
    }
  } catch (error) {
    tell({ id, type: 'failed', message: error instanceof Error ? error.message : String(error) })
  } finally {
    cancelled.delete(id)
  }
}

/** The screen of a run that is played back; null when it is not open any more. Addresses of renditions are told when it is opened. */
function play({ hash, log, ms }: { hash: string; log: EncodedLog | null; ms: number }): {
  screen: PlayedScreen | null
  addresses: string[]
} {
  if (log) {
    const whole = decodeLog(log)
    playing.delete(hash)
    if (playing.size >= mostPlaying) playing.delete(playing.keys().next().value!)
    playing.set(hash, new Playback(whole))
    return {
      screen: playing.get(hash)!.screenAt(ms),
      addresses: whole.renditions.map(({ asset }) => whole.assets[asset]!.address),
    }
  }
  return { screen: playing.get(hash)?.screenAt(ms) ?? null, addresses: [] }
}

/** The profile of a run; the last one is kept. */
function profileOf({ hash, log }: { hash: string; log: EncodedLog }): Profile {
  if (opened?.hash !== hash) opened = { hash, profile: openLog(log) }
  return opened.profile
}

/** A turn of the message queue, faster than a timer. */
function rest(): Promise<void> {
  return new Promise((resolve) => {
    channel.port1.onmessage = () => resolve()
    channel.port2.postMessage(null)
  })
}

/** What is handed over and not copied: the page is not held up by a long run. */
function buffersIn(answer: Answer): ArrayBuffer[] {
  const maps = answer.is === 'runs' ? answer.runs.map(({ map }) => map) : answer.is === 'followed' ? [answer.map] : []
  const logs = answer.is === 'runs' ? answer.runs.flatMap(({ log }) => [log.tables, ...log.chunks]) : []
  const columns = maps.flatMap((map) =>
    [map.channel, map.lines, map.holes, map.drips].flatMap((part) => Object.values(part) as { buffer: ArrayBuffer }[]),
  )
  return [...new Set([...logs, ...columns].map(({ buffer }) => buffer as ArrayBuffer))]
}
