import 'fake-indexeddb/auto'
import { afterEach, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest'
import type { AssetTable } from '../../src/core/loading/asset-table.ts'
import type { DiskEntry } from '../../src/core/loading/disk-tier.ts'
import { clearDisk, keptOnDisk } from '../../src/live/disk-client.ts'
import { LiveDisk } from '../../src/live/live-disk.ts'
import { blobOf, sharedBody, type Body } from '../../src/workers/body.ts'
import type { FromDisk, ToDisk } from '../../src/workers/messages.ts'

/** By its path alone: its types are those of a worker, and this program has a page's. */
const workerFile: string = new URL('../../src/workers/disk-worker.ts', import.meta.url).pathname

/** The worker's own side. */
const inside = {
  onmessage: (_: { data: ToDisk }) => undefined as void,
  postMessage: (message: FromDisk) => void setTimeout(() => outside?.onmessage({ data: message })),
}
/** What the page has of it. */
let outside: FakeWorker | null = null
const posted: ToDisk[] = []
/** Workers that cannot be loaded say nothing but that. */
let loads = true

const opened = (worker: FakeWorker) => (outside = worker)

class FakeWorker {
  onmessage: (event: { data: FromDisk }) => void = () => undefined
  onerror: () => void = () => undefined

  constructor() {
    if (loads) opened(this)
    else setTimeout(() => this.onerror())
  }

  terminate(): void {
    if (outside === this) outside = null
  }

  postMessage(message: ToDisk): void {
    posted.push(message)
    if (this === outside) setTimeout(() => inside.onmessage({ data: message }))
  }
}

const assets = Array.from({ length: 6 }, (_, i) => ({ address: `https://archive.example.test/${i}` }))
const table = { assets } as unknown as AssetTable
const entry = (asset: number): DiskEntry => ({
  identity: assets[asset]!.address,
  host: 'archive.example.test',
  bytes: 3,
  etag: null,
  writtenMs: 1000 - asset,
  headers: {},
})

/** A run's disk tier: bodies of its requests, what is reported of it. */
function diskOf(whose: string) {
  const bodies = new Map<number, Body>()
  const troubles: string[] = []
  const disk = new LiveDisk(whose, bodies, table, [], { get: () => undefined } as never, (text) => troubles.push(text))
  disk.entryOf = entry
  return {
    disk,
    troubles,
    write: (asset: number, text: string) => {
      bodies.set(100 + asset, sharedBody('image/webp', [new TextEncoder().encode(text)]))
      disk.write(asset, 100 + asset)
    },
    /** What is read of an asset; null: nothing. */
    read: (asset: number) =>
      new Promise<string | null>((resolve) =>
        disk.read(asset, asset, 3, (ok) => resolve(ok ? blobOf(bodies.get(asset)!).text() : null)),
      ),
  }
}

const identities = async (whose: string) => (await keptOnDisk(whose)).map(({ identity }) => identity.at(-1)).join('')

beforeAll(async () => {
  vi.stubGlobal('self', inside)
  vi.stubGlobal('Worker', FakeWorker)
  await import(workerFile)
})
beforeEach(async () => {
  for (const whose of ['mine', 'yours']) await clearDisk(whose)
  // Nothing that was reported is still on its way.
  await keptOnDisk('mine')
  posted.length = 0
})
afterEach(() => vi.restoreAllMocks())

describe('the live disk tier', () => {
  it('gives back what was written, at once and from the database, to a run that comes later too', async () => {
    const one = diskOf('mine')
    one.write(0, 'kiln')
    expect(await one.read(0)).toBe('kiln')
    one.write(0, 'glaze')
    expect(await one.read(0)).toBe('glaze')
    expect(await identities('mine')).toBe('0')
    one.disk.stop()
    expect([await diskOf('mine').read(0), await diskOf('yours').read(0), await one.read(1)]).toEqual([
      'glaze',
      null,
      null,
    ])
  })

  it('asks for what one frame reads in one message', async () => {
    const { write, read } = diskOf('mine')
    for (const asset of [0, 1, 2]) write(asset, `body ${asset}`)
    await keptOnDisk('mine')
    posted.length = 0
    expect(await Promise.all([0, 1, 2, 3].map(read))).toEqual(['body 0', 'body 1', 'body 2', null])
    expect(posted.map(({ type }) => type)).toEqual(['read'])
  })

  it('makes changes in their order, and lists the least recently written first, of one project alone', async () => {
    const mine = diskOf('mine')
    const yours = diskOf('yours')
    mine.write(0, 'gone')
    mine.disk.remove(0)
    expect(await mine.read(0)).toBeNull()
    for (const asset of [1, 2, 3]) mine.write(asset, 'kept')
    mine.disk.remove(2)
    mine.write(2, 'again')
    yours.write(4, 'theirs')
    expect([await identities('mine'), await identities('yours')]).toEqual(['321', '4'])
    expect(await mine.read(2)).toBe('again')
    mine.write(5, 'late')
    mine.disk.clear()
    expect([await mine.read(5), await mine.read(1), await yours.read(4)]).toEqual([null, null, 'theirs'])
    expect([await identities('mine'), await identities('yours')]).toEqual(['', '4'])
  })

  it('writes a burst together once it is over, and at once when its run ends', async () => {
    const { disk, write } = diskOf('mine')
    const transactions = new Set<IDBTransaction>()
    const put = IDBObjectStore.prototype.put
    vi.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(function (this: IDBObjectStore, ...given) {
      transactions.add(this.transaction)
      return put.apply(this, given)
    })
    /**
     * The database's own steps, which no clock drives, until there were so many transactions; the end only bounds what
     * hangs.
     */
    const written = async (count: number) => {
      const end = Date.now() + 20_000
      while (transactions.size < count && Date.now() < end) await new Promise((resolve) => setImmediate(resolve))
      return transactions.size
    }
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'performance'] })
    try {
      for (const asset of [0, 1, 2]) {
        write(asset, 'in a burst')
        await vi.advanceTimersByTimeAsync(100)
      }
      await vi.advanceTimersByTimeAsync(400)
      expect(await written(1)).toBe(1)
      write(3, 'the last')
      disk.stop()
      await vi.advanceTimersByTimeAsync(50)
      expect(await written(2)).toBe(2)
      // One that never ends is not put off forever.
      for (let i = 0; i < 14; i++) {
        write(i % 4, `of a long burst ${i}`)
        await vi.advanceTimersByTimeAsync(100)
      }
      expect(await written(3)).toBe(3)
    } finally {
      vi.useRealTimers()
    }
    expect(await identities('mine')).toBe('3210')
  })

  it('is none once it is full: that is reported once, nothing of it is there to be read, and others lose nothing', async () => {
    const other = diskOf('yours')
    for (const asset of [4, 5]) other.write(asset, 'theirs')
    await keptOnDisk('yours')
    const put = IDBObjectStore.prototype.put
    vi.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(function (this: IDBObjectStore, ...given) {
      if (this.name === 'files') throw new DOMException('no room is left', 'QuotaExceededError')
      return put.apply(this, given)
    })
    const { write, read, troubles } = diskOf('mine')
    // The first is written at once, what comes meanwhile together.
    for (const text of ['too much', 'once more']) write(0, text)
    other.disk.remove(4)
    expect([await identities('mine'), await identities('yours')]).toEqual(['', '5'])
    write(1, 'more')
    expect(await Promise.all([0, 1].map(read))).toEqual([null, null])
    expect(troubles).toEqual(['The disk tier cannot be used (QuotaExceededError); pictures are loaded again instead.'])
    expect(other.troubles).toEqual([])
  })

  it('says so when it cannot be emptied', async () => {
    vi.spyOn(IDBObjectStore.prototype, 'delete').mockImplementation(() => {
      throw new DOMException('not now', 'UnknownError')
    })
    const { write } = diskOf('mine')
    write(0, 'stays')
    await keptOnDisk('mine')
    await expect(clearDisk('mine')).rejects.toThrow('The disk tier cannot be emptied (UnknownError).')
  })

  it('is not waited for when it never answers: it lists nothing, and was not emptied', async () => {
    vi.spyOn(inside, 'onmessage').mockImplementation(() => undefined)
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
    try {
      const asked = Promise.allSettled([keptOnDisk('mine'), clearDisk('mine')])
      await vi.runAllTimersAsync()
      expect(await asked).toMatchObject([
        { value: [] },
        { reason: { message: 'The disk tier cannot be emptied (it does not answer).' } },
      ])
    } finally {
      vi.useRealTimers()
    }
  })

  it('reads nothing from a worker that fails, reports it once, and asks a new one the next time', async () => {
    const { read, write, troubles } = diskOf('mine')
    loads = false
    outside!.onerror()
    expect(await Promise.all([read(0), read(1), identities('mine')])).toEqual([null, null, ''])
    expect(troubles).toEqual([
      'The disk tier cannot be used (its worker has failed); pictures are loaded again instead.',
    ])
    loads = true
    const later = diskOf('mine')
    later.write(1, 'new')
    expect(await later.read(1)).toBe('new')
    write(2, 'given up')
    expect(await identities('mine')).toBe('1')
  })
})
