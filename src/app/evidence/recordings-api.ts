import { z } from 'zod'
import { ownServer, serverFailure } from '../../live/own-server.ts'
import type { NetworkSettings } from '../../core/project/types.ts'

const standing = z.object({
  id: z.string(),
  name: z.string(),
  nowMs: z.number(),
  ended: z.boolean(),
  responses: z.number(),
  aborted: z.number(),
  bytes: z.number(),
  counts: z.record(z.string(), z.number()),
  skipped: z.number(),
  clock: z.object({ offsetMs: z.number().nullable(), errorMs: z.number().nullable(), samples: z.number() }),
  trouble: z.string().nullable(),
})
/** The state of a recording on the server. */
export type Standing = z.output<typeof standing>

const place = standing.extend({ base: z.string(), events: z.string(), stream: z.string() })
export type RecordingPlace = z.output<typeof place>

export const readStanding = (text: string): Standing => standing.parse(JSON.parse(text))

async function parseAnswer<T>(answer: Promise<unknown>, schema: z.ZodType<T>): Promise<T> {
  try {
    return schema.parse(await answer)
  } catch (error) {
    throw await serverFailure(error)
  }
}

export const beginRecording = (order: { name: string; upstream: string; network?: NetworkSettings; seed: number }) =>
  parseAnswer(ownServer.post('/api/recordings', { json: order }).json(), place)

export const findRecording = (id: string) => parseAnswer(ownServer.get(`/api/recordings/${id}`).json(), place)

export const markRecording = (id: string, text: string) =>
  parseAnswer(ownServer.post(`/api/recordings/${id}/mark`, { json: { text } }).json(), standing)

export const endRecording = (id: string) => parseAnswer(ownServer.post(`/api/recordings/${id}/end`).json(), standing)

/** Everything that a recording has received so far, as app events. */
export const recordedEvents = (id: string): Promise<Blob> =>
  ownServer
    .get(`/api/recordings/${id}/events.ndjson`, { cache: 'no-store' })
    .blob()
    .catch(async (error: unknown) => {
      throw await serverFailure(error)
    })
