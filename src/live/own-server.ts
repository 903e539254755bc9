import ky, { HTTPError } from 'ky'
import { ServerAway } from './server-away.ts'

/** How long the server may take for one answer, ms, and how often it is asked again. */
const answerMs = 10_000
const askedAgain = 2
/** Delays between attempts to reach the server, at first and at the most, ms. */
const firstLookMs = 300
const lastLookMs = 3000

/**
 * Calls to our own server: each has a time-out and is retried where that can help. None of it is a picture or a page of
 * a feed: those belong to the network, and fail as the network does.
 */
export const ownServer = ky.create({
  timeout: answerMs,
  retry: { limit: askedAgain, methods: ['get', 'post'], statusCodes: [408, 502, 503, 504], retryOnTimeout: false },
})

/** The error of a call, for a person: the server's own words, or that it does not answer. */
export async function serverFailure(error: unknown): Promise<Error> {
  if (error instanceof DOMException && error.name === 'AbortError') return error
  if (!(error instanceof HTTPError)) return new ServerAway()
  const said = await error.response.json().catch(() => null)
  const message = (said as { error?: unknown } | null)?.error
  return new Error(typeof message === 'string' ? message : `the server answered with status ${error.response.status}`)
}

/** Resolves when the server answers again; rejects when it is not awaited any more. */
export async function serverReturns(signal: AbortSignal, waitMs = firstLookMs): Promise<void> {
  for (let wait = waitMs; ; wait = Math.min(lastLookMs, wait * 1.6)) {
    await pause(wait, signal)
    const answered = await ky.get('/api/health', { timeout: answerMs, retry: 0, signal, cache: 'no-store' }).then(
      () => true,
      () => false,
    )
    signal.throwIfAborted()
    if (answered) return
  }
}

function pause(ms: number, signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    const timer = setTimeout(resolve, ms)
    signal.addEventListener('abort', () => {
      clearTimeout(timer)
      reject(signal.reason as Error)
    })
  })
}
