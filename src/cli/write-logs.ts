import { once } from 'node:events'
import { createWriteStream } from 'node:fs'
import { toNdjson } from '../core/log/ndjson.ts'
import type { RunLog } from '../core/log/run-log.ts'
import { badInput } from './fault.ts'

/** Writes the logs of some visits as NDJSON, one after the other. */
export function writeLogs(file: string, logs: readonly RunLog[]): Promise<void> {
  return writeBlocks('--log', file, blocksOf(logs))
}

function* blocksOf(logs: readonly RunLog[]): Generator<string> {
  for (const log of logs) yield* toNdjson(log)
}

/** Writes blocks of text, waiting where the disk is slower. */
export async function writeBlocks(option: string, file: string, blocks: Iterable<string>): Promise<void> {
  const out = createWriteStream(file)
  const broken = new Promise<never>((_, reject) => {
    out.on('error', (error: NodeJS.ErrnoException) =>
      reject(badInput(`${option} ${file}: cannot be written (${String(error.code)})`)),
    )
  })
  const write = async () => {
    for (const block of blocks) if (!out.write(block)) await once(out, 'drain')
    out.end()
    await once(out, 'finish')
  }
  await Promise.race([write(), broken])
}
