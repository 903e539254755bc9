import 'fake-indexeddb/auto'
import { strToU8, unzipSync, zipSync } from 'fflate'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { encodeLog } from '../../src/core/log/log-encoding.ts'
import { hashLog } from '../../src/core/log/log-hash.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { mapOf } from '../../src/core/profile/views/map-data.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { database } from '../../src/app/store/database.ts'
import { exportEverything, importEverything } from '../../src/app/store/everything.ts'
import { redoLast, undoLast } from '../../src/app/store/history.ts'
import { addProject, currentProject, openStored } from '../../src/app/store/project-store.ts'
import { deleteProject, duplicateProject, listProjects, renameProject } from '../../src/app/store/projects.ts'
import { keepRun, logOf } from '../../src/app/store/run-store.ts'
import { jobs } from '../../src/workers/jobs/jobs.ts'
import { projectOf } from '../support/projects.ts'

// Jobs are done here: there are no workers in Node.
vi.mock('../../src/app/simulate/worker-client.ts', () => ({
  runWorker: {
    ask: (name: 'describe', order: Parameters<typeof jobs.describe>[0]) => ({
      result: Promise.resolve().then(() => jobs[name](order)),
    }),
  },
}))

const items = Array.from({ length: 300 }, (_, i) => ({ id: i, photo: `https://a.example.test/${i}.jpg` }))
const kiln = (name: string, long = false) => ({
  format: 'tile-tug/project',
  version: 1,
  name,
  screens: [
    {
      id: 'list',
      cells: [{ slots: [{ id: 'main' }] }],
      ...(long && { feed: { source: { type: 'inline', items } } }),
    },
  ],
})
const run = (() => {
  const { log } = simulate(projectOf({ steps: [{ do: 'flick', dpPerS: 4000 }] }))
  const { facts, ledger, metrics, checks } = profileRun(log)
  return { metrics, checks, hash: hashLog(log), log: encodeLog(log), map: mapOf(facts, ledger), kept: '{"memory":[]}' }
})()

const named = (name: string) => database.projects.filter((each) => each.name === name).toArray()
const names = async () => (await listProjects()).map(({ name }) => name).sort()

/** A project of its own, with a run, a feed and a picture; and its id. */
async function add(name: string, long = false): Promise<string> {
  await addProject(kiln(name, long), null)
  const { id, raw } = currentProject()!
  const facts = { project: id, visit: 'first', screen: 'list', script: 'script', seed: 1, raw } as const
  await keepRun({ ...facts, world: 'simulated' }, run, null)
  await database.feeds.put({ id: `${id} list`, project: id, name: 'feed.json', items: items.slice(0, 5) })
  const body = new Blob([new Uint8Array(1000)], { type: 'image/png' })
  await database.pictures.put({ id: `${id} own`, project: id, body })
  return id
}

const empty = async () => {
  for (const table of database.tables) await table.clear()
}

beforeEach(async () => {
  // The lock is this tab's: no other one is open.
  vi.stubGlobal('navigator', {
    locks: {
      request: (_name: string, _options: object, held: (lock: object) => Promise<void>) => Promise.resolve(held({})),
    },
  })
  await empty()
})

describe('projects', () => {
  it('are listed with what they take: their long lists and what belongs to them', async () => {
    await add('short')
    await add('long', true)
    const [long, short] = (await listProjects()).sort((one, other) => other.bytes - one.bytes)
    expect([long!.name, long!.runs, short!.name, short!.runs]).toEqual(['long', 1, 'short', 1])
    const own = short!.bytes - JSON.stringify(items.slice(0, 5)).length - 1000
    expect(own).toBeGreaterThan(run.log.tables.length)
    expect(long!.bytes - short!.bytes).toBeGreaterThan(0.9 * JSON.stringify(items).length)
  })

  it('get another name, open or not, and the former one back', async () => {
    const closed = await add('closed')
    const open = await add('open')
    await renameProject(closed, '  Kiln  ')
    expect((await database.projects.get(closed))!.raw.name).toBe('Kiln')
    await renameProject(closed, '   ')
    await renameProject(open, 'Sluice')
    expect([currentProject()!.project.name, await names()]).toEqual(['Sluice', ['Kiln', 'Sluice']])
    await undoLast()
    expect(currentProject()!.project.name).toBe('open')
    await undoLast()
    expect((await database.projects.get(closed))!.name).toBe('closed')
    await redoLast()
    expect((await database.projects.get(closed))!.name).toBe('Kiln')
  })

  it('are doubled with their runs, and the copy has a list of its own only in name', async () => {
    const id = await add('kiln', true)
    await duplicateProject(id)
    const copy = currentProject()!
    expect([copy.project.name, copy.id === id]).toEqual(['kiln (copy)', false])
    expect(await database.runs.where('project').equals(copy.id).count()).toBe(1)
    expect(await database.shared.count()).toBe(1)
  })

  it('go with all that is theirs, and come back with it', async () => {
    const stays = await add('stays')
    const goes = await add('goes', true)
    await deleteProject(goes)
    expect(currentProject()!.id).toBe(stays)
    const left = async () => [
      await names(),
      await database.runs.count(),
      await database.runLogs.count(),
      await database.feeds.count(),
      await database.pictures.count(),
      await database.shared.count(),
    ]
    expect(await left()).toEqual([['stays'], 1, 1, 1, 1, 0])
    await undoLast()
    expect(await left()).toEqual([['goes', 'stays'], 2, 2, 2, 2, 1])
    expect(currentProject()!.raw).toMatchObject({ name: 'goes', screens: [{ feed: { source: { items } } }] })
    await redoLast()
    expect(await left()).toEqual([['stays'], 1, 1, 1, 1, 0])
  })
})

describe('everything', () => {
  const exported = async () => new File([await exportEverything()], 'all.zip')

  it('goes out and comes in: projects, runs with their logs, feeds, pictures and presets', async () => {
    const id = await add('kiln', true)
    await database.presets.put({ id: 'slow', of: 'network', name: 'Slow', values: { downKbps: 300 } })
    const file = await exported()
    await empty()
    await importEverything(file)
    expect((await database.projects.toArray()).map((each) => [each.id, each.name])).toEqual([[id, 'kiln']])
    await openStored(id)
    expect(currentProject()!.raw).toEqual(kiln('kiln', true))
    const [kept] = await database.runs.toArray()
    expect(kept).toMatchObject({ project: id, hash: run.hash, metrics: run.metrics })
    const { log, kept: left, map } = (await logOf(kept!.id))!
    expect([left, log.tables, log.chunks]).toEqual([run.kept, run.log.tables, run.log.chunks])
    expect(map).toEqual(run.map)
    expect((await database.feeds.toArray())[0]).toMatchObject({ project: id, items: items.slice(0, 5) })
    expect((await database.presets.toArray())[0]).toMatchObject({ name: 'Slow' })
    expect((await database.pictures.toArray())[0]).toMatchObject({ id: `${id} own`, project: id })
  })

  it('that is here already comes as a copy beside it, with its own runs', async () => {
    const id = await add('kiln')
    await importEverything(await exported())
    expect(await names()).toEqual(['kiln', 'kiln (imported)'])
    const [copy] = await named('kiln (imported)')
    expect(copy!.id).not.toBe(id)
    for (const table of [database.runs, database.feeds, database.pictures])
      expect(await table.where('project').equals(copy!.id).count()).toBe(1)
  })

  it('has no secret in it', async () => {
    await add('kiln')
    await database.secrets.put({ name: 'a.example.test token', value: 'hush-hush' })
    const files = unzipSync(new Uint8Array(await (await exportEverything()).arrayBuffer()))
    for (const content of Object.values(files)) expect(Buffer.from(content).includes('hush-hush')).toBe(false)
  })

  it.each([
    ['is no zip', null, 'it is not a zip that can be read'],
    ['is another zip', { 'a.txt': 'x' }, 'it has no manifest.json: it is not an export of everything from Tile Tug'],
    ['has a broken part', { 'manifest.json': '{' }, 'manifest.json in it is not JSON'],
    [
      'is of a later version',
      { 'manifest.json': '{"format":"tile-tug/everything","version":9}' },
      'manifest.json: /version',
    ],
    [
      'has a wrong project',
      {
        'manifest.json': '{"format":"tile-tug/everything","version":1}',
        'projects.json':
          '[{"id":"x","name":"x","raw":{"format":"tile-tug/project","version":1,"seed":"y"},"changed":1}]',
      },
      'the project “x” in it cannot be read',
    ],
  ])('that %s is refused with what is wrong, and nothing of it comes in', async (_, parts, message) => {
    const bytes = parts
      ? zipSync(Object.fromEntries(Object.entries(parts).map(([name, text]) => [name, strToU8(text)])))
      : strToU8('no zip at all')
    const file = new File([bytes as Uint8Array<ArrayBuffer>], 'all.zip')
    await expect(importEverything(file)).rejects.toThrow(message)
    expect(await database.projects.count()).toBe(0)
  })

  it.each([
    ['lacks a part of a run', (name: string) => name.endsWith('/tables'), null, /^it has no runs\/\d+\/tables/],
    [
      'has a damaged run',
      (name: string) => name.endsWith('/chunk-0'),
      [1, 2, 3],
      /^the run in runs\/\d+ cannot be read/,
    ],
  ])('that %s is refused before anything comes in', async (_, hit, content, message) => {
    await add('kiln')
    const files = unzipSync(new Uint8Array(await (await exportEverything()).arrayBuffer()))
    await empty()
    for (const name of Object.keys(files).filter(hit))
      if (content) files[name] = Uint8Array.from(content)
      else delete files[name]
    const file = new File([zipSync(files) as Uint8Array<ArrayBuffer>], 'all.zip')
    await expect(importEverything(file)).rejects.toThrow(message)
    expect(await Promise.all(database.tables.map((table) => table.count()))).toEqual(database.tables.map(() => 0))
  })
})
