import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { Cancelled } from '../../src/app/simulate/worker-client.ts'
import { MeasuringPool } from '../../src/app/simulate/worker-pool.ts'
import { openPool } from '../../src/cli/simulation-pool.ts'

describe('simulations on all cores of the command line', () => {
  it('give the row of a worker that has ended to another, and what a simulation throws to who asked', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'tug-pool-'))
    const file = join(folder, 'worker.mjs')
    await writeFile(
      file,
      `import { existsSync, writeFileSync } from 'node:fs'
       export default ({ bench, seeds }) => {
         if (bench === 1) throw new Error('it cannot be simulated')
         const mark = ${JSON.stringify(join(folder, 'died-'))} + seeds[0]
         if (seeds[0] === 2 && !existsSync(mark)) { writeFileSync(mark, ''); process.exit(1) }
         return [[seeds[0] * 10]]
       }`,
    )
    const pool = openPool([], 2, pathToFileURL(file).href)
    try {
      const rows = [1, 2, 3, 4].map((seed) => pool.measure({ bench: 0, settings: [], seeds: [seed] }))
      expect(await Promise.all(rows)).toEqual([[[10]], [[20]], [[30]], [[40]]])
      await expect(pool.measure({ bench: 1, settings: [], seeds: [1] })).rejects.toThrow('it cannot be simulated')
      const broken = openPool([], 2, pathToFileURL(join(folder, 'missing.mjs')).href)
      await expect(broken.measure({ bench: 0, settings: [], seeds: [1] })).rejects.toThrow('missing.mjs')
      await broken.close()
    } finally {
      await pool.close()
      await rm(folder, { recursive: true })
    }
  })
})

describe('simulations on all cores of the browser', () => {
  /** Workers whose tasks end when the test says so. */
  function workers(count: number) {
    const under: {
      seed: number
      worker: number
      done: (answer: unknown) => void
      fail: (error: Error) => void
      cancelled: boolean
      says: () => void
    }[] = []
    const clients = Array.from({ length: count }, (_, worker) => ({
      ask: (_name: string, order: { seed: number }, says: () => void) => {
        const task = {
          seed: order.seed,
          worker,
          done: (_: unknown) => {},
          fail: (_: Error) => {},
          cancelled: false,
          says,
        }
        const result = new Promise((done, fail) => Object.assign(task, { done, fail }))
        under.push(task)
        return { result, cancel: () => (task.cancelled = true) }
      },
    }))
    const pool = new MeasuringPool(clients as never)
    const measure = (seed: number) => pool.measure({ seed } as never) as Promise<unknown>
    const turn = () => new Promise((resolve) => setImmediate(resolve))
    return { under, pool, measure, turn }
  }

  afterEach(() => vi.useRealTimers())

  it('a free worker takes the next task; one that fails is tried three times', async () => {
    const { under, measure, turn } = workers(2)
    const [one, two, three] = [measure(1), measure(2), measure(3)]
    expect(under.map(({ seed, worker }) => [seed, worker])).toEqual([
      [1, 0],
      [2, 1],
    ])
    under[1]!.done('two')
    expect(await two).toBe('two')
    await turn()
    expect(under.map(({ seed, worker }) => [seed, worker])).toEqual([
      [1, 0],
      [2, 1],
      [3, 1],
    ])
    for (let tries = 0; tries < 2; tries++) {
      under.findLast(({ seed }) => seed === 3)!.fail(new Error('the worker has ended'))
      await turn()
    }
    expect(under.filter(({ seed }) => seed === 3)).toHaveLength(3)
    const failed = expect(three).rejects.toThrow('the worker has ended')
    under.findLast(({ seed }) => seed === 3)!.fail(new Error('the worker has ended'))
    await failed
    under[0]!.done('one')
    expect(await one).toBe('one')
  })

  it('cancelled, nothing comes any more: neither what waits, nor what was done before its worker heard of it', async () => {
    const { under, pool, measure, turn } = workers(1)
    const all = [measure(1), measure(2)].map((each) =>
      each.then(
        () => 'came',
        (error: unknown) => error,
      ),
    )
    pool.cancel()
    expect(under.map(({ cancelled }) => cancelled)).toEqual([true])
    under[0]!.done('late')
    for (const each of all) expect(await each).toBeInstanceOf(Cancelled)
    await turn()
    expect(under).toHaveLength(1)
    await expect(measure(3)).rejects.toBeInstanceOf(Cancelled)
  })

  it('a worker that says nothing for a minute has died: its task is done by another', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
    const { under, measure, turn } = workers(1)
    const one = measure(1)
    vi.advanceTimersByTime(50_000)
    under[0]!.says()
    vi.advanceTimersByTime(50_000)
    expect(under[0]!.cancelled).toBe(false)
    vi.advanceTimersByTime(20_000)
    expect(under[0]!.cancelled).toBe(true)
    under[0]!.fail(new Cancelled('the worker was ended'))
    await turn()
    expect(under).toHaveLength(2)
    under[1]!.done('one')
    expect(await one).toBe('one')
  })
})
