import { profileOf, RunLogReader } from '../../core/evidence/run-log-reader.ts'
import type { RunHead } from '../../core/log/run-log.ts'
import { stopIfCancelled, type JobHooks } from './job.ts'
import { describeRun, type RunResult } from './run-result.ts'

export interface RunLogOrder {
  body: Blob
}

/** A run that came out of a file, with what its log states about itself. */
export interface ReadRun {
  head: RunHead
  run: RunResult
}

/** Reads the log of a run as it was saved; several visits give several runs. */
export async function runLogJob({ body }: RunLogOrder, hooks: JobHooks): Promise<ReadRun[]> {
  const reader = new RunLogReader()
  const decoder = new TextDecoder('utf-8')
  const stream = body.stream().getReader()
  let bytes = 0
  for (let part = await stream.read(); !part.done; part = await stream.read()) {
    reader.push(decoder.decode(part.value, { stream: true }))
    hooks.progress((0.8 * (bytes += part.value.length)) / body.size)
    await hooks.rest()
    stopIfCancelled(hooks)
  }
  return reader.finish().map((log) => ({ head: log.head, run: describeRun(log, null, profileOf(log)) }))
}
