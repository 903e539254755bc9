import { beforeEach, expect, it, vi } from 'vitest'
import { OriginClient } from '../../src/live/origin-client.ts'

const calls: string[] = []
const session = { id: 's1', base: 'http://origin/s1', bases: ['http://origin/s1'], relay: [] }
let issue: (reply: { renewed: boolean }) => void
let known: () => void

vi.mock('../../src/live/own-server.ts', () => ({
  ownServer: {
    post: (path: string) => {
      calls.push(`post ${path}`)
      if (path === '/api/origin/sessions') return { json: () => Promise.resolve(session) }
      return { json: () => new Promise((resolve) => (issue = resolve)) }
    },
    get: (path: string) => {
      calls.push(`get ${path}`)
      return new Promise<void>((resolve) => (known = resolve))
    },
    delete: (path: string) => {
      calls.push(`delete ${path}`)
      return Promise.resolve()
    },
  },
}))

let origin: OriginClient
beforeEach(async () => {
  origin = await OriginClient.unpaced()
  calls.length = 0
})

it('gives a session back after every call about it is answered: the server would not know the session any more', async () => {
  const [issued, isKnown] = [origin.renew('archive.example.test', []), origin.isKnown()]
  const closed = origin.close()
  issue({ renewed: true })
  expect(await issued).toBe(true)
  expect(calls).toEqual(['post /api/origin/sessions/s1/renew', 'get /api/origin/sessions/s1'])
  known()
  expect(await isKnown).toBe(true)
  await closed
  expect(calls.slice(2)).toEqual(['delete /api/origin/sessions/s1'])
})

it('does not call about a session that has been given back', async () => {
  await origin.close()
  expect([await origin.renew('archive.example.test', []), await origin.isKnown()]).toEqual([false, null])
  expect(calls).toEqual(['delete /api/origin/sessions/s1'])
})
