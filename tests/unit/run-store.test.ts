import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { mapOf } from '../../src/core/profile/views/map-data.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { encodeLog } from '../../src/core/log/log-encoding.ts'
import { hashLog } from '../../src/core/log/log-hash.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { undoLast } from '../../src/app/store/history.ts'
import { database, type StoredRun } from '../../src/app/store/database.ts'
import {
  baselineOf,
  deleteRun,
  followRuns,
  keepNotes,
  currentRuns,
  keepRun,
  pinBaseline,
  renameRun,
  showRun,
  type RunFacts,
} from '../../src/app/store/run-store.ts'
import { projectOf } from '../support/projects.ts'

const raw = {
  format: 'tile-tug/project',
  version: 1,
  name: 'kiln',
  screens: [{ id: 'list', cells: [{ slots: [{}] }] }],
}
const facts: RunFacts = {
  project: 'p',
  world: 'simulated',
  visit: 'first',
  screen: 'list',
  script: 'script',
  seed: 1,
  raw,
}

/** A run as the worker gives it. */
const result = (() => {
  const { log } = simulate(
    projectOf({
      steps: [
        { do: 'wait', ms: 200 },
        { do: 'flick', dpPerS: 4000 },
        { do: 'wait', ms: 600 },
      ],
    }),
  )
  const { facts: found, ledger, metrics, checks } = profileRun(log)
  return { metrics, checks, hash: hashLog(log), log: encodeLog(log), map: mapOf(found, ledger), kept: null }
})()
const keep = (more: Partial<RunFacts> = {}) => keepRun({ ...facts, ...more }, result, null)
const run = async (id: number) => (await database.runs.get(id))!

beforeEach(async () => {
  await database.runs.clear()
  await database.runLogs.clear()
})

describe('kept runs', () => {
  it('are numbered by project, and say what was set otherwise than in the run before', async () => {
    const first = await keep()
    const second = await keep({ raw: { ...raw, loading: { fetchSlots: 3 } } })
    await keepRun({ ...facts, project: 'q' }, result, null)
    const third = await keep({ raw: { ...raw, loading: { fetchSlots: 3 } } })
    expect(await Promise.all([first, second, third].map(async (id) => (await run(id)).number))).toEqual([1, 2, 3])
    expect((await run(first)).changed).toEqual([])
    expect((await run(second)).changed).toEqual(['Fetch slots: 6 → 3'])
    expect((await run(third)).changed).toEqual([])
    expect((await database.runs.where('project').equals('q').first())!.number).toBe(1)
  })

  it('have the gap between client and origin among their figures, and a tiny map of the whole', async () => {
    const { metrics, tiny } = await run(await keepRun(facts, result, 0.0125))
    expect(metrics['ledger.gapShare']).toBe(0.0125)
    expect(tiny!.line.length).toBeGreaterThan(10)
    for (const [x, y] of [...tiny!.line, ...tiny!.ends] as [number, number][]) {
      expect(x).toBeGreaterThanOrEqual(0)
      expect(x).toBeLessThanOrEqual(1)
      expect(y).toBeLessThanOrEqual(1)
    }
  })

  it('come back whole when their deletion is undone', async () => {
    const id = await keep()
    await renameRun(id, '  with holes ')
    await keepNotes(id, [{ ms: 120, text: 'here it sticks' }])
    const before = await run(id)
    expect(before).toMatchObject({ name: 'with holes', notes: [{ ms: 120, text: 'here it sticks' }] })
    await deleteRun(before)
    expect(await database.runs.get(id)).toBeUndefined()
    expect(await database.runLogs.get(id)).toBeUndefined()
    await undoLast()
    expect(await run(id)).toEqual(before)
    expect((await database.runLogs.get(id))!.map.lines.request).toEqual(result.map.lines.request)
  })

  it('have one baseline a project at most; a second press takes it back', async () => {
    const ids = [await keep(), await keep()]
    const other = await keep({ project: 'q' })
    await pinBaseline(await run(other))
    await pinBaseline(await run(ids[0]!))
    await pinBaseline(await run(ids[1]!))
    const pinned = async () => (await database.runs.toArray()).filter(({ baseline }) => baseline).map(({ id }) => id)
    expect(await pinned()).toEqual([ids[1], other])
    await pinBaseline(await run(ids[1]!))
    expect(await pinned()).toEqual([other])
  })
})

describe('the run that is held against', () => {
  const at = (id: number, more: Partial<StoredRun> = {}) =>
    ({ id, script: 's', screen: 'list', baseline: false, ...more }) as StoredRun
  const against = (list: StoredRun[], shown: number) =>
    baselineOf({ project: 'p', read: true, list, shown, opened: new Map() })?.id ?? null

  it('is the pinned one, else the one before on the same gesture and screen', () => {
    expect(against([at(1), at(2), at(3)], 3)).toBe(2)
    expect(against([at(1), at(2, { script: 'other' }), at(3)], 3)).toBe(1)
    expect(against([at(1), at(2, { screen: 'wall' }), at(3, { screen: 'wall' })], 3)).toBe(2)
    expect(against([at(1, { baseline: true }), at(2), at(3)], 3)).toBe(1)
    expect(against([at(1), at(2)], 1)).toBeNull()
    // The baseline itself is held against nothing.
    expect(against([at(1), at(2, { baseline: true })], 2)).toBeNull()
  })
})

it('a newly kept run is shown with its log; a run that is picked stays shown while others are renamed', async () => {
  const seen: { shown: number | null; opened: number[] }[] = []
  const look = () => {
    const { shown, opened } = currentRuns()
    seen.push({ shown, opened: [...opened.keys()] })
    return seen.at(-1)!
  }
  followRuns('p')
  const first = await keep()
  await vi.waitFor(() => expect(look()).toEqual({ shown: first, opened: [first] }))
  const second = await keep()
  await vi.waitFor(() => expect(look()).toEqual({ shown: second, opened: [second, first] }))
  showRun(first)
  await renameRun(second, 'later')
  await vi.waitFor(() => expect(look()).toEqual({ shown: first, opened: [first] }))
  await deleteRun(await run(first))
  await vi.waitFor(() => expect(look().shown).toBe(second))
})
