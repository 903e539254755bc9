import { describeJob } from './describe-job.ts'
import { evidenceJob } from './evidence-job.ts'
import { eventsJob, eventTextJob, exportJob } from './event-jobs.ts'
import { checkFeedJob, readFeedJob, readPicturesJob } from './feed-jobs.ts'
import { playJob } from './play-job.ts'
import { compareJob, findingsJob, repeatJob } from './proof-jobs.ts'
import { runLogJob } from './run-log-job.ts'
import { buffersOfMap, buffersOfRun } from './run-result.ts'
import { runFileJob, vectorsJob, zipJob } from './file-jobs.ts'
import { sheetJob } from './sheet-job.ts'
import { measureJob } from './sweep-job.ts'
import { followJob, simulateJob } from './simulate-job.ts'
import { trackJob } from './track-job.ts'
import { ledgerJob, lensJob, storyJob, wayJob } from './view-jobs.ts'

/** Every job of the simulation workers: its order and its answer are typed by its own function. */
export const jobs = {
  simulate: simulateJob,
  follow: followJob,
  describe: describeJob,
  findings: findingsJob,
  compare: compareJob,
  repeat: repeatJob,
  play: playJob,
  lens: lensJob,
  story: storyJob,
  way: wayJob,
  ledger: ledgerJob,
  events: eventsJob,
  eventText: eventTextJob,
  export: exportJob,
  track: trackJob,
  readFeed: readFeedJob,
  readPictures: readPicturesJob,
  checkFeed: checkFeedJob,
  measure: measureJob,
  sheet: sheetJob,
  runFile: runFileJob,
  vectors: vectorsJob,
  zip: zipJob,
  evidence: evidenceJob,
  readRunLog: runLogJob,
} satisfies Record<string, (order: never, hooks: never) => unknown>

export type Jobs = typeof jobs
export type JobName = keyof Jobs
export type Order<Name extends JobName> = Parameters<Jobs[Name]>[0]
export type Answer<Name extends JobName> = Awaited<ReturnType<Jobs[Name]>>

type Buffers = { [Name in JobName]?: (answer: Answer<Name>) => ArrayBuffer[] }

/** The parts of an answer that are transferred and not copied. */
const buffers: Buffers = {
  simulate: (runs) => runs.flatMap(buffersOfRun),
  describe: buffersOfRun,
  readRunLog: (runs) => runs.flatMap(({ run }) => buffersOfRun(run)),
  follow: ({ map }) => buffersOfMap(map),
}

export function buffersIn<Name extends JobName>(name: Name, answer: Answer<Name>): ArrayBuffer[] {
  return [...new Set(buffers[name]?.(answer))]
}
