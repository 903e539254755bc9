import { strFromU8, unzipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { noReadings } from '../../src/core/evidence/readings-source.ts'
import { encodeLog } from '../../src/core/log/log-encoding.ts'
import { toNdjson } from '../../src/core/log/ndjson.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { JobCancelled } from '../../src/workers/jobs/job.ts'
import type { EvidenceFile, EvidenceOrder } from '../../src/workers/jobs/evidence-job.ts'
import { jobs } from '../../src/workers/jobs/jobs.ts'
import { runFiles } from '../../src/workers/jobs/file-jobs.ts'
import { hooksFor } from '../support/job-hooks.ts'
import { eventsText, filledProject, harText } from '../support/evidence.ts'

const { project, raw } = filledProject({
  script: 'down and back',
  scripts: [
    {
      name: 'down and back',
      steps: [
        { do: 'wait', ms: 800 },
        { do: 'flick', dpPerS: 5000 },
        { do: 'wait', ms: 1500 },
        { do: 'flick', dpPerS: -4000 },
        { do: 'wait', ms: 1500 },
      ],
    },
  ],
})
const [screen] = project.screens
const run = profileRun(simulate(project).log)
const { log } = run.facts

const patient = () => hooksFor(Infinity).hooks
/** Cancelled before they begin, and after the first turn. */
const cancelled = () => hooksFor(-1).hooks
const leaving = () => hooksFor(0).hooks
const blob = (text: string | Uint8Array) => new Blob([text as never])

describe('files of an app that was recorded', () => {
  const file = (name: string, text: string | Uint8Array, more: Partial<EvidenceFile> = {}): EvidenceFile => ({
    name,
    body: blob(text),
    kind: null,
    offsetMs: 0,
    mapping: '',
    ...more,
  })
  const order = (files: EvidenceFile[], more: Partial<EvidenceOrder> = {}): EvidenceOrder => ({
    files,
    readings: noReadings,
    raw: raw as never,
    screen: screen!.id,
    items: null,
    quick: false,
    ...more,
  })

  it('become a run with its figures, a lane for each file, and a world that is fitted to it', async () => {
    const { hooks, shares } = hooksFor(Infinity)
    const answer = await jobs.evidence(
      order([file('app.har', harText(run)), file('app.ndjson', eventsText(log))]),
      hooks,
    )
    expect(answer.unread).toEqual([])
    expect(answer.lanes.map(({ name, ticks }) => [name, ticks.length > 10])).toEqual([
      ['app.har', true],
      ['app.ndjson', true],
    ])
    const { metrics } = answer.run!
    for (const id of ['bytes.received', 'requests.total', 'pictures.exposures', 'cells.bound'] as const)
      expect([id, metrics[id]]).toEqual([id, run.metrics[id]])
    expect(answer.fit!.simulated!.fidelity['fidelity.requests']).toBeGreaterThan(0.9)
    expect(shares).toEqual([...shares].sort((one, other) => one - other))
    expect(shares.at(-1)).toBe(1)
  })

  it('by themselves show what they can: what would have to be recorded beside is named', async () => {
    const {
      run: alone,
      notObserved,
      fit,
    } = await jobs.evidence(order([file('a.har', harText(run))], { quick: true }), patient())
    expect([alone!.metrics['bytes.received'], alone!.metrics['cells.bound'], fit]).toEqual([
      run.metrics['bytes.received'],
      null,
      null,
    ])
    expect(notObserved['cells.bound']).toMatch(/\w/)
    expect(notObserved['bytes.received']).toBe(undefined)
  })

  it('that cannot be read are named with their first lines, beside those that can', async () => {
    const answer = await jobs.evidence(
      order([
        file('notes.txt', 'one line\n\nand another'),
        file('latin.har', Uint8Array.from([0x7b, 0x22, 0xe9, 0x22])),
        file('run.ndjson', [...toNdjson(log)].join('')),
        file('app.ndjson', eventsText(log)),
      ]),
      patient(),
    )
    expect(answer.lanes.map(({ name }) => name)).toEqual(['app.ndjson'])
    expect(answer.unread.map(({ name, sample }) => [name, sample.length])).toEqual([
      ['notes.txt', 2],
      ['latin.har', 1],
      ['run.ndjson', 5],
    ])
    expect(answer.unread[2]!.message).toContain('it is the log of a run')
    expect(answer.run!.metrics['cells.bound']).toBe(run.metrics['cells.bound'])
  })

  it('with readings that were typed in alone, or none at all', async () => {
    const typed = { ...noReadings, memoryStart: 80, memoryPeak: 210, storageBefore: 12, storageAfter: 19.5 }
    const answer = await jobs.evidence(order([], { readings: typed }), patient())
    expect(answer.run!.metrics).toMatchObject({ 'memory.startMb': 80, 'memory.peakMb': 210 })
    expect(await jobs.evidence(order([]), patient())).toEqual({
      lanes: [],
      unread: [],
      run: null,
      notObserved: {},
      fit: null,
    })
  })

  it('that are being read can be left', async () => {
    const hooks = cancelled()
    await expect(jobs.evidence(order([file('app.har', harText(run))]), hooks)).rejects.toBeInstanceOf(JobCancelled)
  })
})

describe('the log of a run', () => {
  const text = [...toNdjson(log)].join('')

  it('is opened as the run that it was', async () => {
    const { hooks, shares } = hooksFor(Infinity)
    const [opened, ...others] = await jobs.readRunLog({ body: blob(text) }, hooks)
    expect(others).toEqual([])
    expect(opened!.head).toMatchObject({ seed: log.head.seed, script: log.head.script })
    expect(opened!.run.metrics).toEqual(run.metrics)
    expect(shares.length).toBeGreaterThan(0)
    await expect(jobs.readRunLog({ body: blob(text) }, leaving())).rejects.toBeInstanceOf(JobCancelled)
  })

  it('and each file that is made of it, are the same as those made from the run itself', () => {
    const stored = { hash: 'of this test', log: encodeLog(log) }
    const made = Object.fromEntries(runFiles.map((what) => [what, jobs.runFile({ ...stored, what })]))
    expect(made.log).toBe(text)
    expect(made.events).toBe(eventsText(log))
    expect((JSON.parse(made.har!) as { log: { entries: object[] } }).log.entries).toHaveLength(
      run.facts.transfers.length,
    )
    expect(made.figures).toContain(`bytes.received,${run.metrics['bytes.received']}`)
    expect(made.map).toMatch(/^<svg[^]*<\/svg>\s*$/)
    const zipped = unzipSync(
      jobs.zip({ files: Object.entries(made).map(([name, content]) => ({ name, text: content })) }),
    )
    expect(Object.fromEntries(Object.entries(zipped).map(([name, bytes]) => [name, strFromU8(bytes)]))).toEqual(made)
  })
})

describe('a feed', () => {
  const read = (bytes: Uint8Array | string) =>
    jobs.readFeed({ name: 'a.json', body: blob(bytes), options: {} as never }, patient())

  it('is read as UTF-8, or as UTF-16 that says so', async () => {
    const text = '[{"id":1,"title":"Öfen"}]'
    const utf16 = new Uint8Array([
      0xff,
      0xfe,
      ...new Uint8Array(Uint16Array.from([...text].map((each) => each.charCodeAt(0))).buffer),
    ])
    for (const bytes of [text, `\ufeff${text}`, utf16])
      expect(await read(bytes)).toMatchObject({ ok: true, feed: { items: [{ title: 'Öfen' }] } })
    expect(await read(Uint8Array.from([0x5b, 0xe9, 0x5d]))).toEqual({
      ok: false,
      message: 'the text is neither UTF-8 nor marked as UTF-16; save it as UTF-8 and open it again',
    })
  })

  it('of picked files has the px of each that is a picture, and leaves the others out', async () => {
    const png = Uint8Array.from([
      0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, 0, 0, 0, 13, 0x49, 0x48, 0x44, 0x52, 0, 0, 1, 0x40, 0, 0, 0, 0xf0,
      8, 2, 0, 0, 0, 0, 0, 0, 0,
    ])
    const files = [
      { name: 'a.png', body: blob(png) },
      { name: 'b.txt', body: blob('nothing') },
      { name: 'c.mp4', body: new Blob(['film'], { type: 'video/mp4' }) },
    ]
    expect(await jobs.readPictures({ files }, patient())).toEqual([
      { name: 'a.png', bytes: png.length, width: 320, height: 240 },
      { name: 'c.mp4', bytes: 4, width: null, height: null },
    ])
    await expect(jobs.readPictures({ files }, cancelled())).rejects.toBeInstanceOf(JobCancelled)
  })
})

it('a row of a sweep has the figures of each seed, and stops where its settings make no project', async () => {
  const row = {
    raw: raw as never,
    screen: screen!.id,
    script: project.script ?? '',
    seed: 1,
    visit: 'first' as const,
    items: null,
    seen: [],
    seeds: [1, 2, 3],
  }
  const { metrics, tiny } = await jobs.measure(
    { ...row, settings: [{ path: '/loading/fetchSlots', value: 2 }] },
    patient(),
  )
  expect(metrics).toHaveLength(3)
  const narrow = { ...project, loading: { ...project.loading, fetchSlots: 2 } }
  expect(metrics[1]).toEqual(profileRun(simulate(narrow, { seed: 2 }).log).metrics)
  expect(tiny.line.length).toBeGreaterThan(10)
  const wrong = { ...row, settings: [{ path: '/loading/fetchSlots', value: 0 }] }
  await expect(jobs.measure(wrong, patient())).rejects.toThrow('fetchSlots')
  await expect(jobs.measure({ ...row, settings: [] }, leaving())).rejects.toBeInstanceOf(JobCancelled)
})
