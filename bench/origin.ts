import { createServer, get } from 'node:http'
import type { AddressInfo } from 'node:net'
import { Agent } from 'node:http'
import { pino } from 'pino'
import { startServer } from '../src/server/server.ts'
import { fixed, type Line } from './measure.ts'

const requests = 3000
const atOnce = 16

/** A cached picture from an unpaced session against a bare handler that sends the same buffer, in turn. */
export async function benchOrigin(): Promise<Line[]> {
  const server = await startServer({ port: 0, dist: 'dist', pictures: null, log: pino({ level: 'silent' }) })
  const reply = await fetch(`${server.address}api/origin/sessions`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({
      network: { rttMs: 0, jitterMs: 0, thinkMs: 0, setupRtts: 0, slowStart: false, downKbps: 10_000_000 },
      seed: 1,
    }),
  })
  const { base } = (await reply.json()) as { base: string }
  const address = `${base}/tiles/417?width=326&height=326`
  const picture = Buffer.from(await (await fetch(address)).arrayBuffer())
  const bare = createServer((_, res) => {
    res.writeHead(200, { 'content-type': 'image/webp', 'content-length': picture.length })
    res.end(picture)
  })
  await new Promise<void>((resolve) => bare.listen(0, '127.0.0.1', resolve))
  const bareAddress = `http://127.0.0.1:${(bare.address() as AddressInfo).port}/`
  const ratios: number[] = []
  let speed = 0
  for (let i = 0; i < 6; i++) {
    const own = await perSecond(address)
    const other = await perSecond(bareAddress)
    speed = own
    if (i > 0) ratios.push(own / other)
  }
  ratios.sort((a, b) => a - b)
  bare.close()
  await server.close()
  const median = ratios[Math.floor(ratios.length / 2)]!
  return [
    {
      what: 'origin, cached picture, unpaced: requests/s ÷ a bare HTTP handler',
      value: fixed(median),
      target: '≥ 0.5',
      ok: median >= 0.5,
      note: `${Math.round(speed)} requests/s`,
    },
  ]
}

async function perSecond(address: string): Promise<number> {
  const agent = new Agent({ keepAlive: true, maxSockets: atOnce })
  const start = performance.now()
  let left = requests
  const one = () =>
    new Promise<void>((resolve, reject) =>
      get(address, { agent }, (res) => res.resume().on('end', resolve)).on('error', reject),
    )
  await Promise.all(
    Array.from({ length: atOnce }, async () => {
      while (left-- > 0) await one()
    }),
  )
  agent.destroy()
  return requests / ((performance.now() - start) / 1000)
}
