import { once } from 'node:events'
import { Agent, createServer, request, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { sendPaced } from '../../src/server/origin/send-paced.ts'
import type { LedgerEntry, PacedTransfer } from '../../src/server/origin/session.ts'

/** A session that lets through what the test says, when it says so. */
class Session {
  readonly unpaced = false
  readonly ledger: LedgerEntry[] = []
  transfer: PacedTransfer | null = null
  letGo: (() => number) | null = null
  nowMs = () => 0
  record = (entry: LedgerEntry) => (this.ledger.push(entry), entry)
  name = (_: number, stop: () => number) => (this.letGo = stop)
  over = () => undefined
  carry = (_host: string, _flow: object, transfer: PacedTransfer) => {
    this.transfer = transfer
    return () => undefined
  }
}

let session = new Session()
const answer = (res: ServerResponse) =>
  void sendPaced(session as never, res, {
    address: '/tiles/1',
    host: 'archive',
    status: 200,
    headers: {},
    flow: { bytes: 1000 },
    declared: 1000,
    body: Buffer.alloc(1000),
    breakOff: false,
    transfer: 7,
  })
const server = createServer((req, res) => (req.url === '/paced' ? answer(res) : void res.end('next')))
/** One connection, kept open, as a browser keeps a few. */
const agent = new Agent({ keepAlive: true, maxSockets: 1 })
const ask = (path: string) => request({ agent, port: (server.address() as AddressInfo).port, path }).end()

beforeAll(async () => {
  server.listen(0, '127.0.0.1')
  await once(server, 'listening')
})
afterAll(() => {
  agent.destroy()
  server.close()
})

/** Begins a paced response of which so many bytes are let through, and waits until they have come. */
async function begin(bytes: number) {
  session = new Session()
  const asked = ask('/paced')
  const response = once(asked, 'response')
  await expect.poll(() => session.transfer).not.toBeNull()
  session.transfer!.firstByte()
  session.transfer!.upTo(bytes)
  const [reply] = (await response) as [NodeJS.ReadableStream]
  let came = 0
  reply.on('data', (part: Buffer) => (came += part.length))
  reply.on('error', () => undefined)
  await expect.poll(() => came).toBe(bytes)
  return asked
}

describe('a paced response that its client lets go of', () => {
  it('has ended when all of it was written: the connection is good for the next request', async () => {
    await begin(1000)
    expect(session.letGo!()).toBe(1000)
    const [next] = (await once(ask('/next'), 'response')) as [AsyncIterable<Buffer>]
    let text = ''
    for await (const part of next) text += part.toString()
    expect(text).toBe('next')
    expect(session.ledger).toMatchObject([{ bodyBytes: 1000, aborted: false }])
  })

  it('is written no further, and its client breaks it off', async () => {
    const asked = await begin(400)
    expect(session.letGo!()).toBe(400)
    session.transfer!.upTo(900)
    asked.destroy()
    expect(session.ledger).toMatchObject([{ bodyBytes: 400, aborted: true }])
  })
})
