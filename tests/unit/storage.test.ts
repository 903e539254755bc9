import 'fake-indexeddb/auto'
import Dexie from 'dexie'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Database } from '../../src/app/store/database.ts'

const opened: Database[] = []

/** The modules that use the browser's storage, as a page has them when it opens. */
async function openPage() {
  vi.resetModules()
  // What the page falls back on is not the browser's storage, which is made of the same here.
  vi.doMock('fake-indexeddb', async (original) => {
    const real = await original<typeof import('fake-indexeddb')>()
    return { ...real, indexedDB: new real.IDBFactory() }
  })
  const { database } = await import('../../src/app/store/database.ts')
  opened.push(database)
  const storage = await import('../../src/app/store/storage.ts')
  const now = async () => (await import('../../src/app/store/database.ts')).database
  return { first: database, ...storage, now }
}
const project = (id: string) => ({ id, rev: 1, name: id, raw: { name: id }, changed: 1 })
const refuse = (database: Database) =>
  vi.spyOn(database, 'open').mockRejectedValue(new DOMException('The user denied it', 'SecurityError'))

beforeEach(async () => {
  for (const database of opened.splice(0)) database.close()
  await Dexie.delete('tile-tug')
  return () => void vi.useRealTimers()
})

describe('the browser’s storage', () => {
  it('is used where it opens', async () => {
    const page = await openPage()
    await page.openStorage()
    expect(page.currentStorage()).toMatchObject({ storage: { is: 'open' }, waiting: null, generation: 0 })
    expect(await page.now()).toBe(page.first)
  })

  it('that is refused is done without for the session, and takes all over when it opens later', async () => {
    const page = await openPage()
    refuse(page.first)
    await page.openStorage()
    expect(page.currentStorage()).toMatchObject({ storage: { is: 'session' }, generation: 1 })
    expect(JSON.stringify(page.currentStorage().storage)).toContain('The user denied it')
    const session = await page.now()
    await session.projects.put(project('kiln'))
    const run = await session.runs.add({ project: 'kiln', number: 1 } as never)
    await session.runLogs.put({ run } as never)
    await page.retryStorage()
    expect(page.currentStorage()).toMatchObject({ storage: { is: 'open' }, generation: 2 })
    const kept = await page.now()
    opened.push(kept)
    expect(kept).not.toBe(session)
    expect((await kept.projects.toArray()).map(({ id }) => id)).toEqual(['kiln'])
    // What belonged to a run goes on belonging to it, under the number that it has there.
    const [only] = await kept.runs.toArray()
    expect(await kept.runLogs.get(only!.id)).toBeDefined()
  })

  it('whose runs have numbers of their own already gets those of the session beside them', async () => {
    const page = await openPage()
    await page.openStorage()
    const before = await page.first.runs.add({ project: 'old', number: 1 } as never)
    page.first.close()
    const again = await openPage()
    refuse(again.first)
    await again.openStorage()
    await (await again.now()).runs.add({ project: 'new', number: 1 } as never)
    await again.retryStorage()
    const kept = await again.now()
    opened.push(kept)
    const runs = await kept.runs.toArray()
    expect(runs.map(({ project: of }) => of)).toEqual(['old', 'new'])
    expect(new Set(runs.map(({ id }) => id)).size).toBe(2)
    expect(runs[0]!.id).toBe(before)
  })

  it('that does not answer is not waited for, and used when it answers after all', async () => {
    const page = await openPage()
    let answer: () => void = () => undefined
    const open = page.first.open.bind(page.first)
    vi.spyOn(page.first, 'open').mockImplementation((() =>
      new Promise<void>((resolve) => (answer = resolve)).then(() => open())) as never)
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
    const opening = page.openStorage()
    await vi.advanceTimersByTimeAsync(4100)
    vi.useRealTimers()
    await opening
    expect(page.currentStorage().storage).toEqual({ is: 'session', why: 'it does not answer' })
    await (await page.now()).projects.put(project('meanwhile'))
    answer()
    await vi.waitFor(() => expect(page.currentStorage().storage).toEqual({ is: 'open' }))
    expect(await page.now()).toBe(page.first)
    expect(await page.first.projects.count()).toBe(1)
  })

  it('is given up to a newer version in another tab, after what is not saved was saved', async () => {
    const page = await openPage()
    const saved: string[] = []
    page.savesBeforeClosing(async () => void saved.push('all'))
    await page.openStorage()
    page.first.on('versionchange').fire({} as never)
    await vi.waitFor(() => expect(page.currentStorage().storage).toEqual({ is: 'outdated' }))
    expect([saved, page.first.isOpen()]).toEqual([['all'], false])
  })
})

describe('what cannot be kept', () => {
  const full = () => Promise.reject(new DOMException('no room', 'QuotaExceededError'))

  it('waits, is named, and is written when there is room: the newest of each only', async () => {
    const page = await openPage()
    const wrote: string[] = []
    let room = false
    const write = (what: string) => async () => (room ? void wrote.push(what) : full())
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
    expect(await page.keep('a', 'the project “kiln”', write('a, first'))).toBe(false)
    expect(await page.keep('a', 'the project “kiln”', write('a, second'))).toBe(false)
    expect(await page.keep('b', 'run 3', write('b'))).toBe(false)
    expect(page.currentStorage().waiting).toMatchObject({ full: true, what: ['the project “kiln”', 'run 3'] })
    expect(page.isWaiting()).toBe(true)
    await vi.advanceTimersByTimeAsync(2100)
    expect(wrote).toEqual([])
    room = true
    await vi.advanceTimersByTimeAsync(2100)
    expect([wrote, page.isWaiting(), page.currentStorage().waiting]).toEqual([['a, second', 'b'], false, null])
  })

  it('and is not wanted any more is forgotten; an error other than a lack of room is reported as that', async () => {
    const page = await openPage()
    await page.keep('a', 'a feed', () => Promise.reject(new Error('the disk is broken')))
    expect(page.currentStorage().waiting).toEqual({
      full: false,
      what: ['a feed'],
      why: expect.stringContaining('the disk is broken'),
    })
    page.forgetWaiting('a')
    expect([page.isWaiting(), page.currentStorage().waiting]).toEqual([false, null])
    await page.tryAgain()
  })
})
