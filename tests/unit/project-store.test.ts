import 'fake-indexeddb/auto'
import Dexie from 'dexie'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { database } from '../../src/app/store/database.ts'
import { handLifted, handPressed } from '../../src/app/store/hand.ts'
import { undoLast } from '../../src/app/store/history.ts'
import { currentStorage } from '../../src/app/store/storage.ts'
import { addProject, currentProject, edit, openStored, set } from '../../src/app/store/project-store.ts'

const small = {
  format: 'tile-tug/project',
  version: 1,
  name: 'kiln',
  screens: [{ id: 'list', cells: [{ slots: [{}] }] }],
}
const stored = () => database.projects.toArray()
const settled = () => vi.waitFor(() => expect(currentProject()!.saved).toBe('saved'), { timeout: 5000 })

beforeEach(async () => {
  // The lock is this tab's: no other one is open.
  vi.stubGlobal('navigator', {
    locks: {
      request: (_name: string, _options: object, held: (lock: object) => Promise<void>) => Promise.resolve(held({})),
    },
  })
  await database.projects.clear()
  await addProject(small, null)
})

describe('saving a project', () => {
  it('keeps all that is changed while an earlier save is still under way, in one project', async () => {
    // Somebody holds the table: saves pile up behind it, as on a slow disk.
    let release = () => {}
    const holds = new Promise<void>((resolve) => (release = resolve))
    const holding = database.transaction('rw', database.projects, () => Dexie.waitFor(holds, 10_000))
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
    for (const [path, value] of [
      ['/seed', 11],
      ['/loading', { fetchSlots: 3 }],
      ['/script', null],
    ] as const) {
      set(path, value)
      vi.advanceTimersByTime(300)
    }
    vi.useRealTimers()
    release()
    await holding
    await settled()
    const all = await stored()
    expect(all.map(({ name }) => name)).toEqual(['kiln'])
    expect(all[0]!.raw).toMatchObject({ seed: 11, loading: { fetchSlots: 3 }, script: null })
    expect(all[0]!.rev).toBeGreaterThanOrEqual(3)
  })

  it('saves a hand that keeps moving at least every second', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'performance'] })
    const saved = async () => (await database.projects.get(currentProject()!.id))!.raw.seed as number | undefined
    for (let i = 1; i <= 30; i++) {
      set('/seed', i)
      vi.advanceTimersByTime(200)
      if (i === 6) await vi.waitFor(async () => expect(await saved()).toBeGreaterThanOrEqual(2))
    }
    await vi.waitFor(async () => expect(await saved()).toBeGreaterThan(20))
    vi.useRealTimers()
    await settled()
  })

  it('keeps one copy of a long list of items for a project and all that is made of it', async () => {
    const items = Array.from({ length: 300 }, (_, i) => ({ id: i }))
    const screen = { ...small.screens[0], feed: { source: { type: 'inline', items } } }
    await addProject({ ...small, screens: [screen] }, null)
    const { id } = currentProject()!
    set('/seed', 3)
    await settled()
    expect(await database.shared.count()).toBe(1)
    expect(JSON.stringify((await database.projects.get(id))!.raw).length).toBeLessThan(500)
    await addProject(small, null)
    await openStored(id)
    expect(currentProject()!.raw).toMatchObject({ seed: 3, screens: [{ feed: { source: { items } } }] })
  })

  it('finds no room: the change stays, is said to wait, and is saved as soon as there is room', async () => {
    const full = new DOMException('full', 'QuotaExceededError')
    const put = vi.spyOn(database.projects, 'put').mockImplementation(() => Dexie.Promise.reject(full) as never)
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'performance'] })
    set('/seed', 12)
    vi.advanceTimersByTime(400)
    await vi.waitFor(() => expect(currentStorage().waiting).toMatchObject({ full: true, what: ['the project “kiln”'] }))
    expect(currentProject()).toMatchObject({ saved: 'failed', raw: { seed: 12 } })
    put.mockRestore()
    vi.advanceTimersByTime(2100)
    vi.useRealTimers()
    await vi.waitFor(() => expect(currentStorage().waiting).toBeNull())
    await settled()
    expect((await database.projects.get(currentProject()!.id))!.raw).toMatchObject({ seed: 12 })
  })

  it('goes on as a copy with everything in it when another tab has saved, and leaves that tab’s as it is', async () => {
    const { id } = currentProject()!
    const theirs = { ...small, seed: 99 }
    await database.projects.put({ id, rev: 7, name: 'kiln', raw: theirs, changed: 0 })
    set('/seed', 1)
    await vi.waitFor(() => expect(currentProject()!.notice).toContain('continues as a copy'), { timeout: 5000 })
    set('/loading', { fetchSlots: 2 })
    await settled()
    const all = await stored()
    expect(all.find((each) => each.id === id)!.raw).toEqual(theirs)
    const copy = all.find((each) => each.id !== id)!
    expect(copy).toMatchObject({
      id: currentProject()!.id,
      name: 'kiln (copy of this tab)',
      raw: { name: 'kiln (copy of this tab)', seed: 1, loading: { fetchSlots: 2 } },
    })
    // What was done before the copy can still be undone in it.
    undoLast()
    undoLast()
    expect(currentProject()!.raw).not.toHaveProperty('seed')
  })

  it('reports what does not parse and applies none of it; a drag is one step of undo', async () => {
    edit('drag', [{ op: 'replace', path: '/seed', value: 2 }])
    edit('drag', [{ op: 'replace', path: '/seed', value: 3 }])
    edit('wrong', [{ op: 'replace', path: '/seed', value: 'many' }])
    expect(currentProject()!.raw).toMatchObject({ seed: 3 })
    expect(currentProject()!.notice).toContain('/seed')
    undoLast()
    expect(currentProject()!.raw).not.toHaveProperty('seed')
    await settled()
  })

  it('undoes what is whole by itself, however soon it came after another of its name', async () => {
    edit('open kilns.json', [{ op: 'replace', path: '/seed', value: 2 }], true)
    edit('open kilns.json', [{ op: 'replace', path: '/seed', value: 3 }], true)
    undoLast()
    expect(currentProject()!.raw).toMatchObject({ seed: 2 })
    undoLast()
    expect(currentProject()!.raw).not.toHaveProperty('seed')
    await settled()
  })

  it('opens what was saved, and stays where it is when that is gone', async () => {
    const first = currentProject()!.id
    set('/seed', 5)
    await addProject({ ...small, name: 'second' }, null)
    await openStored(first)
    expect(currentProject()!.project.name).toBe('kiln')
    expect(await openStored('nobody')).toBe('That project is not in this browser any more.')
    expect(currentProject()).toMatchObject({ id: first })
  })
})

describe('the database', () => {
  /** What each earlier version had, as it was made then. */
  const versions: readonly Record<string, string>[] = [
    { projects: 'id, changed', runs: '++id, project', runLogs: 'run', memory: 'name' },
    { feeds: 'id, project', secrets: 'name' },
    { pictures: 'id, project' },
    { presets: 'id, of' },
  ]

  it.each([1, 2, 3, 4])('of version %i opens with all that was in it', async (version) => {
    database.close()
    await Dexie.delete('tile-tug')
    const old = new Dexie('tile-tug')
    for (let v = 1; v <= version; v++) old.version(v).stores(versions[v - 1]!)
    await old.open()
    await old.table('projects').put({ id: 'a', rev: 4, name: 'old', raw: { ...small, name: 'old' }, changed: 1 })
    await old.table('runs').put({ id: 3, project: 'a', number: 3 })
    if (version >= 2) await old.table('secrets').put({ name: 'token', value: 'kept' })
    if (version >= 3) await old.table('pictures').put({ id: 'p', project: 'a', body: new Blob(['x']) })
    old.close()
    await database.open()
    await openStored('a')
    expect(currentProject()!.project.name).toBe('old')
    expect(await database.runs.where('project').equals('a').count()).toBe(1)
    expect(await database.secrets.count()).toBe(version >= 2 ? 1 : 0)
    expect(await database.pictures.count()).toBe(version >= 3 ? 1 : 0)
    await database.presets.put({ id: 'x', of: 'policy', name: 'mine', values: {} })
    expect(await database.presets.count()).toBe(1)
  })
})

describe('undo', () => {
  it('takes back all that changed during one press of the pointer, however slowly it went, and nothing more', async () => {
    vi.useFakeTimers({ toFake: ['performance'] })
    const seed = () => currentProject()!.raw.seed
    set('/seed', 1)
    vi.advanceTimersByTime(5000)
    handPressed()
    for (const value of [2, 3, 4]) {
      set('/seed', value)
      vi.advanceTimersByTime(5000)
    }
    handLifted()
    set('/seed', 5)
    vi.useRealTimers()
    await undoLast()
    expect(seed()).toBe(4)
    await undoLast()
    expect(seed()).toBe(1)
    await settled()
  })
})
