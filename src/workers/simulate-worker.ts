import { compareOnSeeds } from '../core/compare/prove.ts'
import { eventsAsCsv, listEvents } from '../core/log/event-list.ts'
import { decodeLog, type EncodedLog } from '../core/log/log-encoding.ts'
import { toNdjson } from '../core/log/ndjson.ts'
import { ledgerTable } from '../core/profile/ledger-table.ts'
import type { Profile } from '../core/profile/profile.ts'
import { tellRequest } from '../core/profile/stories.ts'
import type { FromWorker, ToWorker } from './messages.ts'
import { checkFeed, knownItems } from '../core/run/feed-check.ts'
import { readFeedJob, readPicturesJob } from './feed-jobs.ts'
import { trackLoad } from './track-job.ts'
import { describeRun, findJob, openLog, simulateJob } from './run-jobs.ts'

declare const self: DedicatedWorkerGlobalScope

const cancelled = new Set<number>()
const channel = new MessageChannel()
let opened: { hash: string; profile: Profile } | null = null

self.onmessage = (event: MessageEvent<ToWorker>) => {
  const message = event.data
  if (message.type === 'cancel') cancelled.add(message.id)
  else void start(message)
}

async function start({ id, job }: Extract<ToWorker, { type: 'start' }>): Promise<void> {
  const tell = (message: FromWorker) => self.postMessage(message)
  try {
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
      case 'describe':
        tell({ id, type: 'done', answer: { is: 'runs', runs: [describeRun(decodeLog(job.log), null)] } })
        break
      case 'story': {
        const { facts, ledger } = profileOf(job)
        tell({ id, type: 'done', answer: { is: 'story', story: tellRequest(facts, ledger, job.request) } })
        break
      }
      case 'findings': {
        const proven = await findJob(job, profileOf(job), { rest, cancelled: () => cancelled.has(id), progress: (share) => tell({ id, type: 'progress', share }) })
        tell(proven ? { id, type: 'done', answer: { is: 'findings', proven } } : { id, type: 'cancelled' })
        break
      }
      case 'compare': {
        const order = { ...job, raw: job.a, seen: new Map(job.seen) }
        const changes = await compareOnSeeds(order, job.b, { rest, cancelled: () => cancelled.has(id), progress: (share) => tell({ id, type: 'progress', share }) })
        tell(changes ? { id, type: 'done', answer: { is: 'compared', changes } } : { id, type: 'cancelled' })
        break
      }
      case 'ledger':
        tell({ id, type: 'done', answer: { is: 'ledger', table: ledgerTable(profileOf(job)) } })
        break
      case 'events':
        tell({ id, type: 'done', answer: { is: 'events', page: listEvents(profileOf(job).facts.log, job.wish, job.most) } })
        break
      case 'export': {
        const { log } = profileOf(job).facts
        const file = job.as === 'csv' ? new Blob([eventsAsCsv(log, job.wish)], { type: 'text/csv' }) : new Blob([...toNdjson(log)], { type: 'application/x-ndjson' })
        tell({ id, type: 'done', answer: { is: 'file', file } })
        break
      }
      case 'track': {
        tell({ id, type: 'done', answer: { is: 'track', track: trackLoad(job.project, job.project.screens[job.screen]!, job.item, job.slot) } })
        break
      }
      case 'read-feed': {
        const read = await readFeedJob(job, (share) => tell({ id, type: 'progress', share }))
        tell({ id, type: 'done', answer: { is: 'feed', read } })
        break
      }
      case 'read-pictures': {
        const pictures = await readPicturesJob(job, { cancelled: () => cancelled.has(id), progress: (share) => tell({ id, type: 'progress', share }) })
        tell(pictures ? { id, type: 'done', answer: { is: 'pictures', pictures } } : { id, type: 'cancelled' })
        break
      }
      case 'check-feed': {
        const screen = job.project.screens[job.screen]!
        tell({ id, type: 'done', answer: { is: 'feed-check', check: checkFeed(job.project, screen, job.items ?? knownItems(screen.feed) ?? []) } })
      }
    }
  } catch (error) {
    tell({ id, type: 'failed', message: error instanceof Error ? error.message : String(error) })
  } finally {
    cancelled.delete(id)
  }
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
