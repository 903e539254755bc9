import 'fake-indexeddb/auto'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import type { Following } from '../../src/app/simulate/follow-store.ts'
import { mapOf } from '../../src/core/profile/views/map-data.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import type { Project } from '../../src/core/project/types.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { items, plainLink, projectOf } from '../support/projects.ts'

interface Answer {
  metrics: { 'requests.total': number }
  map: ReturnType<typeof mapOf>
  untilMs: number | null
}
interface Asked {
  order: { project: Project; items: unknown }
  isCancelled: boolean
  part: (answer: Answer) => void
  done: (answer: Answer) => void
  fail: (error: Error) => void
}

/** What the worker was asked, oldest first; a test answers. */
const asked: Asked[] = []
class Cancelled extends Error {}
const handWorker = {
  ask: (_job: string, order: Asked['order'], _progress: unknown, part: Asked['part']) => {
    const job: Asked = { order, isCancelled: false, part, done: () => {}, fail: () => {} }
    asked.push(job)
    return {
      result: new Promise<Answer>((done, fail) => Object.assign(job, { done, fail })),
      cancel: () => {
        job.isCancelled = true
        job.fail(new Cancelled('cancelled'))
      },
    }
  },
}
vi.mock('../../src/app/simulate/worker-client.ts', () => ({ Cancelled, handWorker }))

const at = async () => {
  const { followHand, warmUp } = await import('../../src/app/simulate/follow-hand.ts')
  const { followed } = await import('../../src/app/simulate/follow-store.ts')
  const store = await import('../../src/app/store/project-store.ts')
  return { followHand, warmUp, followed, ...store }
}
const project = projectOf({ items: items(40), network: plainLink, steps: [{ do: 'flick', dpPerS: 3000 }] })
const { facts, ledger } = profileRun(simulate(project).log)
const map = mapOf(facts, ledger)

/** An answer that is recognised by its number of requests. */
const answer = (requests: number, untilMs: number | null = null): Answer => ({
  metrics: { 'requests.total': requests },
  map: untilMs === null ? map : { ...map, endMs: untilMs },
  untilMs,
})
const shown = (following: Following | null) =>
  following && [
    following.metrics['requests.total' as never],
    following.untilMs,
    (following.raw as { seed: number }).seed,
  ]
/** Lets what waits for an answer go on. */
const settled = () => new Promise((resolve) => setTimeout(resolve, 0))
const small = {
  format: 'tile-tug/project',
  version: 1,
  name: 'kiln',
  seed: 1,
  screens: [{ id: 'list', cells: [{ slots: [{}] }] }],
}

let end: () => void = () => {}
/** The page's clock, ms. */
let now = 1000

beforeEach(async () => {
  vi.resetModules()
  asked.length = 0
  vi.spyOn(performance, 'now').mockImplementation(() => now)
  vi.stubGlobal('navigator', {
    locks: { request: (_n: string, _o: object, held: (lock: object) => unknown) => held({}) },
  })
  vi.stubGlobal('window', { requestIdleCallback: true })
  vi.stubGlobal('requestIdleCallback', (act: () => void) => act())
  const { addProject, followHand } = await at()
  await addProject(small, null)
  end = followHand(0)
  await settled()
})
afterEach(() => {
  end()
  vi.unstubAllGlobals()
  vi.restoreAllMocks()
})

it('asks within the change, one change at a time, and after the answer only the newest there is', async () => {
  const { set, followed } = await at()
  asked[0]!.done(answer(10))
  await settled()
  expect(shown(followed.get())).toEqual([10, null, 1])
  set('/seed', 2)
  // Before anything else has run.
  expect(asked.map(({ order }) => order.project.seed)).toEqual([1, 2])
  for (const seed of [3, 4, 5]) set('/seed', seed)
  expect(asked).toHaveLength(2)
  asked[1]!.done(answer(20))
  await settled()
  expect(asked.map(({ order }) => order.project.seed)).toEqual([1, 2, 5])
  expect(shown(followed.get())).toEqual([20, null, 2])
  asked[2]!.done(answer(50))
  await settled()
  expect(shown(followed.get())).toEqual([50, null, 5])
  // What the worker knows by itself is not sent to it.
  expect(asked.every(({ order }) => order.items === null)).toBe(true)
})

it('shows a long script’s beginning at once, and ends it for a later change, but for figures that are too old', async () => {
  const { set, followed } = await at()
  asked[0]!.done(answer(10))
  await settled()
  set('/seed', 2)
  // Before anything of it is shown, another waits.
  set('/seed', 3)
  expect(asked).toHaveLength(2)
  asked[1]!.part(answer(0, 300))
  expect(shown(followed.get())).toEqual([10, 300, 2])
  await settled()
  expect(asked[1]!.isCancelled).toBe(true)
  expect(asked[2]!.order.project.seed).toBe(3)
  asked[2]!.part(answer(0, 600))
  expect(shown(followed.get())).toEqual([10, 600, 3])
  // A part that comes out of turn takes nothing back.
  asked[2]!.part(answer(0, 450))
  expect(shown(followed.get())).toEqual([10, 600, 3])
  // One whose answer has been shown makes way at once: the order is sent within the change.
  set('/seed', 4)
  expect(asked.map(({ isCancelled }) => isCancelled)).toEqual([false, true, true, false])
  // The hand has not rested for so long that figures would be of long ago: this one goes to its end, and they are its.
  now += 1000
  asked[3]!.part(answer(0, 200))
  set('/seed', 5)
  expect(asked).toHaveLength(4)
  asked[3]!.done(answer(40))
  await settled()
  expect(shown(followed.get())).toEqual([40, null, 4])
  expect(asked.at(-1)!.order.project.seed).toBe(5)
  // Its beginning is the newest one's; what follows, and the figures, are those of the one before.
  asked.at(-1)!.part(answer(0, 100))
  expect(shown(followed.get())).toEqual([40, 100, 5])
  expect(followed.get()!.map.endMs).toBe(map.endMs)
  asked.at(-1)!.done(answer(50))
  await settled()
  expect(shown(followed.get())).toEqual([50, null, 5])
})

it('lets the page be drawn with what a handle has changed once the strip has answered, or in a frame without an answer', async () => {
  const frames: (() => void)[] = []
  vi.stubGlobal('requestAnimationFrame', (act: () => void) => frames.push(act))
  const { moveByHand } = await import('../../src/app/store/hand.ts')
  const { set, currentProject } = await at()
  const { drawnProject } = await import('../../src/app/store/project-state.ts')
  asked[0]!.done(answer(10))
  await settled()
  const seeds = () => [currentProject()!.project.seed, drawnProject()!.project.seed]
  moveByHand(() => set('/seed', 2))
  expect(seeds()).toEqual([2, 1])
  asked[1]!.part(answer(0, 300))
  await settled()
  expect(seeds()).toEqual([2, 1])
  // The frame in which the strip is drawn.
  frames[0]!()
  await settled()
  expect(seeds()).toEqual([2, 2])
  moveByHand(() => set('/seed', 3))
  expect(seeds()).toEqual([3, 2])
  await vi.waitUntil(() => drawnProject()!.project.seed === 3)
  // Nothing waits, and whoever changes something else sees all of it.
  moveByHand(() => set('/seed', 4))
  set('/name', 'another')
  expect(seeds()).toEqual([4, 4])
})

it('forgets with the project, the screen and the end of following, and hears no answer to what it has forgotten', async () => {
  const { addProject, followHand, followed, set } = await at()
  asked[0]!.done(answer(10))
  await settled()
  set('/seed', 2)
  await addProject({ ...small, name: 'another', seed: 7 }, null)
  expect(followed.get()).toBeNull()
  asked[1]!.done(answer(99))
  await settled()
  expect(followed.get()).toBeNull()
  const next = asked.at(-1)!
  expect(next.order.project.seed).toBe(7)
  next.done(answer(70))
  await settled()
  expect(shown(followed.get())).toEqual([70, null, 7])
  // Another screen begins again.
  end()
  end = followHand(1)
  expect(followed.get()).toBeNull()
  asked.at(-1)!.done(answer(71))
  await settled()
  expect(shown(followed.get())).toEqual([71, null, 7])
  end()
  const count = asked.length
  set('/seed', 8)
  expect(asked).toHaveLength(count)
})

it('reports why it cannot follow, but not when it was cancelled, and goes on with the next change', async () => {
  const { set, followed } = await at()
  const notice = async () => (await at()).currentProject()?.notice ?? null
  asked[0]!.fail(new Cancelled('cancelled'))
  await settled()
  expect(await notice()).toBeNull()
  set('/seed', 2)
  asked[1]!.fail(new Error('out of memory'))
  await settled()
  expect(await notice()).toBe('The strip cannot follow: out of memory.')
  // The notice is no change of the project: it is not tried again and again.
  expect(asked).toHaveLength(2)
  set('/seed', 3)
  asked.at(-1)!.done(answer(30))
  await settled()
  expect(shown(followed.get())).toEqual([30, null, 3])
})

it('warms the engine up only while nothing else is to be done, and shows nothing of it', async () => {
  const { set, warmUp, followed } = await at()
  await warmUp()
  // Nothing was simulated yet: there is nothing to warm up with.
  expect(asked).toHaveLength(1)
  asked[0]!.done(answer(10))
  await settled()
  const warming = warmUp()
  expect(asked).toHaveLength(2)
  asked[1]!.done(answer(11))
  await settled()
  expect(shown(followed.get())).toEqual([10, null, 1])
  expect(asked).toHaveLength(3)
  // A change comes next, and ends the warming.
  set('/seed', 2)
  asked[2]!.done(answer(12))
  await settled()
  expect(asked.at(-1)!.order.project.seed).toBe(2)
  asked.at(-1)!.done(answer(20))
  await settled()
  expect(shown(followed.get())).toEqual([20, null, 2])
  for (let n = 0; n < 60; n++) {
    asked.at(-1)!.done(answer(20))
    await settled()
  }
  await warming
  // Forty times at most.
  expect(asked.length).toBeLessThanOrEqual(2 + 40 + 1)
})
