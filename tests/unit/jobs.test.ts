import { describe, expect, it } from 'vitest'
import { measureRun } from '../../src/core/profile/profile.ts'
import { joinMaps } from '../../src/core/profile/views/joined-map.ts'
import { mapOf } from '../../src/core/profile/views/map-data.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import type { Followed } from '../../src/workers/jobs/simulate-job.ts'
import { JobCancelled } from '../../src/workers/jobs/job.ts'
import { jobs } from '../../src/workers/jobs/jobs.ts'
import { ListReceiver, ListSender } from '../../src/workers/shared-lists.ts'
import { hooksFor } from '../support/job-hooks.ts'
import { items, plainLink, projectOf } from '../support/projects.ts'

const project = projectOf({
  items: items(400),
  network: plainLink,
  steps: Array.from({ length: 8 }, () => [
    { do: 'flick', dpPerS: 4000 },
    { do: 'wait', ms: 2000 },
  ]).flat(),
})
const drive = { project, screen: 'list', script: 'script', seed: 1, items: null, seen: [] }

describe('a job', () => {
  it('that is cancelled midway ends there, and the same order gives a whole run afterwards', async () => {
    const order = { ...drive, visits: ['first' as const, 'again' as const], from: null }
    const { hooks, shares } = hooksFor(0)
    await expect(jobs.simulate(order, hooks)).rejects.toBeInstanceOf(JobCancelled)
    expect(Math.max(...shares)).toBeLessThan(1)
    const { hooks: patient, shares: all } = hooksFor(Infinity)
    const runs = await jobs.simulate(order, patient)
    expect(runs.map(({ metrics }) => metrics['frames.count']! > 100)).toEqual([true, true])
    expect(all).toEqual([...all].sort((a, b) => a - b))
    expect(all.at(-1)).toBe(1)
  })

  it('that follows a hand reports a long script from its beginning on, each part as the whole has it', async () => {
    const { hooks, parts } = hooksFor<Followed>(Infinity)
    const whole = await jobs.follow(drive, hooks)
    const log = simulate(project, { seed: 1 }).log
    const { facts, ledger, metrics } = measureRun(log)
    expect(whole).toEqual({ untilMs: null, metrics, map: mapOf(facts, ledger) })

    const ends = parts.map(({ untilMs }) => untilMs!)
    expect(ends.length).toBeGreaterThan(2)
    expect(ends).toEqual([...ends].sort((a, b) => a - b))
    for (const [number, { map, metrics: figures }] of parts.entries()) {
      expect(figures).toBe(null)
      const before = (times: Float64Array) => [...times].filter((ms) => ms < ends[number]!)
      expect([...map.lines.from].filter((ms) => ms < ends[number]!)).toEqual(before(whole.map.lines.from))
      // With what comes after it, it is the whole again: nothing is there twice, and nothing is lost.
      const joined = joinMaps(map, whole.map)
      for (const column of ['from', 'row', 'slot'] as const)
        expect([...joined.lines[column]]).toEqual([...whole.map.lines[column]])
      expect([...joined.drips.t]).toEqual([...whole.map.drips.t])
      expect(joined.endMs).toBe(whole.map.endMs)
    }

    // The hand has moved on: heard as soon as the first part has been reported.
    const moved = hooksFor<Followed>(0)
    await expect(jobs.follow(drive, moved.hooks)).rejects.toBeInstanceOf(JobCancelled)
    expect(moved.parts).toEqual([parts[0]])
  })

  it('that proves something hears a cancel between two seeds', async () => {
    const raw = {
      format: 'tile-tug/project',
      version: 1,
      name: 'x',
      screens: project.screens,
      scripts: project.scripts,
    }
    const order = { ...drive, raw: raw as never, other: raw as never, visit: 'first' as const }
    await expect(jobs.compare(order, hooksFor(3).hooks)).rejects.toBeInstanceOf(JobCancelled)
    await expect(jobs.repeat({ ...order, times: 5 }, hooksFor(3).hooks)).rejects.toBeInstanceOf(JobCancelled)
    const spreads = await jobs.repeat({ ...order, times: 3 }, hooksFor(Infinity).hooks)
    expect(spreads.find(({ metric }) => metric === 'pictures.exposures')!.least).toBeGreaterThan(0)
  })

  it('reports what a run suggests where nothing of it can be simulated', async () => {
    const waste = { ...project, loading: { ...project.loading, cancel: { ...project.loading.cancel, when: 'never' } } }
    const raw = { format: 'tile-tug/project', version: 1, name: 'x', loading: waste.loading, screens: project.screens }
    const [run] = await jobs.simulate(
      { ...drive, project: waste as never, visits: ['first'], from: null },
      hooksFor(Infinity).hooks,
    )
    const order = { ...drive, ...run!, raw: raw as never, script: 'recorded', visit: 'first' as const }
    const answer = await jobs.findings({ ...order, prove: false }, hooksFor(Infinity).hooks)
    expect('suspicions' in answer && answer.suspicions.map(({ id }) => id)).toContain('no-cancelling')
    await expect(jobs.findings({ ...order, prove: true }, hooksFor(Infinity).hooks)).rejects.toThrow('no script')
  })

  it('answers what is asked of a kept run from its log alone', async () => {
    const [run] = await jobs.simulate({ ...drive, visits: ['first'], from: null }, hooksFor(Infinity).hooks)
    const { log, hash, metrics } = run!
    const stored = { log, hash }
    expect(jobs.ledger({ ...stored, only: null }).rows.reduce((sum, { bytes }) => sum + bytes, 0)).toBe(
      metrics['bytes.received'],
    )
    expect(jobs.story({ ...stored, request: 0 })!.sentences.length).toBeGreaterThan(2)
    expect(jobs.story({ ...stored, request: 1e6 })).toBeNull()
    expect(jobs.way({ ...stored, of: 'cell', number: 0 })).not.toBeNull()
    const shows = (most: number, from: number) =>
      jobs.events({ ...stored, query: { kinds: ['show'], text: '' }, most, from })
    expect(shows(5, 0).events.map(({ event }) => event)).toEqual(Array(5).fill('show'))
    // Pages follow each other, and what is copied is all of them.
    const [all, second] = [shows(1000, 0), shows(5, 5)]
    expect(all.events.length).toBe(all.matching)
    expect(second.events).toEqual(all.events.slice(5, 10))
    const text = jobs.eventText({ ...stored, query: { kinds: ['show'], text: '' }, most: 1000 })
    expect(text.split('\n').length).toBe(all.matching)
    const file = await jobs
      .export({ ...stored, as: 'ndjson', query: { kinds: [], text: '' }, notes: [{ ms: 1, text: 'a' }] })
      .text()
    expect(file.trim().split('\n').at(-1)).toBe('{"event":"note","t":1,"text":"a"}')
    expect(jobs.play({ hash: 'unknown', log: null, ms: 0 }).screen).toBeNull()
    expect(jobs.play({ ...stored, ms: 2000 }).addresses.length).toBeGreaterThan(5)
    expect(jobs.play({ hash, log: null, ms: 2000 }).screen).not.toBeNull()
    for (const which of ['frames', 'threads', 'memory', 'cells', 'tiers', 'failures'] as const)
      expect(jobs.lens({ ...stored, which, within: null, only: null }).of).toBe(which)
  })
})

it('a long list goes over once, and stands in its place again in each order that has it', () => {
  const sender = new ListSender()
  const receiver = new ListReceiver()
  const order = { raw: project as never, other: project as never, items: items(300) }
  const first = sender.detach(order)
  expect(first.lists.length).toBe(2)
  for (const list of first.lists) receiver.take(structuredClone(list))
  expect(receiver.attach(structuredClone(first.order))).toEqual(order)
  const second = sender.detach(order)
  expect(second.lists).toEqual([])
  expect(receiver.attach(structuredClone(second.order))).toEqual(order)
  expect(() => new ListReceiver().attach(second.order)).toThrow('was not given')
})
