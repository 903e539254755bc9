import { headLength, recognise } from '../../core/evidence/recognise.ts'
import { openRunLog } from '../store/open-run-log.ts'
import type { EvidenceAnswer, EvidenceFile } from '../../workers/jobs/evidence-job.ts'
import { noReadings, type Readings } from '../../core/evidence/readings-source.ts'
import type { NetworkSettings } from '../../core/project/types.ts'
import { Cancelled, WorkerClient, type Job } from '../simulate/worker-client.ts'
import { createStore } from '../store/external-store.ts'
import { itemsToGive } from '../store/feed-store.ts'
import { currentProject } from '../store/project-store.ts'
import { remember, remembered } from '../store/remember.ts'
import { keepRun } from '../store/run-store.ts'
import {
  beginRecording,
  endRecording,
  findRecording,
  markRecording,
  readStanding,
  recordedEvents,
  type RecordingPlace,
  type Standing,
} from './recordings-api.ts'

export interface Evidence {
  /** The project that it belongs to. */
  project: string | null
  files: EvidenceFile[]
  readings: Readings
  recording: (RecordingPlace & { standing: Standing }) | null
  answer: EvidenceAnswer | null
  /** Progress of reading, 0 to 1; null: nothing is being read. */
  share: number | null
  trouble: string | null
}

const nothing: Evidence = {
  project: null,
  files: [],
  readings: noReadings,
  recording: null,
  answer: null,
  share: null,
  trouble: null,
}
const store = createStore<Evidence>(nothing)
export const useEvidence = store.use
const update = (more: Partial<Evidence>) => store.set({ ...store.get(), ...more })

/** Reading is long and can be cancelled: it has a worker of its own. */
const worker = new WorkerClient()
let job: Job<EvidenceAnswer> | null = null
let stream: EventSource | null = null
/** Reading is under way; what arrives meanwhile is read afterwards. */
let reading: Promise<void> | null = null
let isStale = false
/** The recording that a page had is found again after a reload, by its project. */
const recordingKey = (project: string) => `tile-tug recording ${project}`

/** Shows the evidence of a project; a recording that was under way when the page was left is continued. */
export async function openEvidence(project: string): Promise<void> {
  if (store.get().project === project) return
  stream?.close()
  stream = null
  job?.cancel()
  store.set({ ...nothing, project })
  const id = remembered(recordingKey(project))
  if (id === null) return
  try {
    follow(await findRecording(id))
    await read()
  } catch (error) {
    remember(recordingKey(project), null)
    update({ trouble: `The recording that was under way here is gone: ${messageOf(error)}` })
  }
}

/**
 * Adds files to the evidence. The log of a run is not evidence of another run: it is opened as a run; returns how many
 * were.
 */
export async function addFiles(dropped: readonly File[]): Promise<number> {
  const heads = await Promise.all(dropped.map((file) => file.slice(0, headLength).text()))
  const isRun = heads.map((head) => {
    const found = recognise(head)
    return 'kind' in found && found.kind === 'run'
  })
  const files = dropped.filter((_, i) => !isRun[i])
  const known = new Set(store.get().files.map(({ name }) => name))
  const added = files.filter(({ name }) => !known.has(name))
  const fresh = added.map((file): EvidenceFile => ({
    name: file.name,
    body: file,
    kind: null,
    offsetMs: 0,
    mapping: '',
  }))
  if (fresh.length > 0) {
    update({ files: [...store.get().files, ...fresh] })
    await read()
  }
  let opened = 0
  for (const file of dropped.filter((_, at) => isRun[at]))
    try {
      opened += await openRunLog(file)
    } catch (error) {
      update({ trouble: `${file.name} was not opened: ${messageOf(error)}` })
    }
  return opened
}

export async function changeFile(name: string, change: Partial<EvidenceFile> | null): Promise<void> {
  const files = store.get().files.flatMap((file) => {
    if (file.name !== name) return [file]
    return change === null ? [] : [{ ...file, ...change }]
  })
  update({ files, ...(files.length === 0 && !store.get().recording ? { answer: null } : {}) })
  await read()
}

export async function setReadings(change: Partial<Readings>): Promise<void> {
  update({ readings: { ...store.get().readings, ...change } })
  await read()
}

export const cancelReading = () => job?.cancel()

/** Begins to record a real app, with its upstream and its pacing; null: as fast as possible. */
export async function record(upstream: string, network: NetworkSettings | null): Promise<void> {
  const open = currentProject()
  if (!open) return
  update({ trouble: null })
  try {
    const begun = await beginRecording({
      name: open.project.name,
      upstream,
      ...(network ? { network } : {}),
      seed: open.project.seed,
    })
    remember(recordingKey(open.id), begun.id)
    update({ files: [], answer: null })
    follow(begun)
  } catch (error) {
    update({ trouble: messageOf(error) })
  }
}

export async function markNow(): Promise<void> {
  const { recording } = store.get()
  if (recording)
    await markRecording(recording.id, 'marked here').catch((error: unknown) => update({ trouble: messageOf(error) }))
}

/** Ends the recording, and keeps it as a run. */
export async function endAndKeep(): Promise<number | null> {
  const { recording, project } = store.get()
  if (!recording || project === null) return null
  try {
    const standing = await endRecording(recording.id)
    stream?.close()
    stream = null
    remember(recordingKey(project), null)
    update({ recording: { ...recording, standing } })
    await read()
    return store.get().trouble === null ? await keepEvidence() : null
  } catch (error) {
    update({ trouble: messageOf(error) })
    return null
  }
}

/** Keeps what was read as a run like any other; returns its number, or null when there is nothing to keep. */
export async function keepEvidence(): Promise<number | null> {
  const { answer, project } = store.get()
  const open = currentProject()
  if (!answer?.run || project === null || open?.id !== project) return null
  const { fit, run } = answer
  return keepRun(
    {
      project,
      world: 'recorded',
      visit: 'first',
      screen: fit?.screen ?? open.project.screens[0]!.id,
      script: fit?.script ?? 'recorded',
      seed: open.project.seed,
      raw: fit?.raw ?? open.effective,
    },
    run,
    null,
  )
}

function follow(place: RecordingPlace): void {
  update({ recording: { ...place, standing: place } })
  if (place.ended) return
  stream?.close()
  stream = new EventSource(new URL(place.stream).pathname)
  stream.addEventListener('grow', (event: MessageEvent<string>) => {
    const { recording } = store.get()
    if (recording?.id !== place.id) return
    update({ recording: { ...recording, standing: readStanding(event.data) } })
    void read()
  })
}

/** Reads everything that is there, then what arrived meanwhile, until nothing is left to read. */
function read(): Promise<void> {
  isStale = true
  reading ??= readWhileStale().finally(() => (reading = null))
  return reading
}

async function readWhileStale(): Promise<void> {
  while (isStale) {
    isStale = false
    await readOnce()
  }
}

async function readOnce(): Promise<void> {
  const { recording, project } = store.get()
  const open = currentProject()
  if (!open || open.id !== project) return
  const screen = open.project.screens[0]!
  try {
    const files = [...store.get().files]
    if (recording) {
      const body = await recordedEvents(recording.id)
      // Before anything has come there is only its head.
      for (const [name, part] of await lanesOf(body))
        files.push({ name, body: part, kind: 'events', offsetMs: 0, mapping: '' })
    }
    const { readings } = store.get()
    if (files.length === 0 && Object.values(readings).every((each) => each === null)) return
    const items = await itemsToGive(open.id, screen)
    update({ share: 0, trouble: null })
    job = worker.ask(
      'evidence',
      {
        files,
        readings,
        raw: open.effective,
        screen: screen.id,
        items,
        quick: recording !== null && !recording.standing.ended,
      },
      (share) => update({ share }),
    )
    update({ answer: await job.result, share: null })
  } catch (error) {
    update({ share: null, trouble: error instanceof Cancelled ? 'Reading was cancelled.' : messageOf(error) })
  } finally {
    job = null
  }
}

/** What the bench has written and what the app has sent, as a source each; those without anything are left out. */
async function lanesOf(body: Blob): Promise<[string, Blob][]> {
  const [head = '', ...lines] = (await body.text()).split('\n').filter((line) => line !== '')
  const isResponse = (line: string) => line.includes('"event":"response"')
  const lane = (name: string, own: string[]): [string, Blob][] =>
    own.length === 0 ? [] : [[name, new Blob([[head, ...own].join('\n')])]]
  return [
    ...lane('pictures', lines.filter(isResponse)),
    ...lane(
      'app events',
      lines.filter((line) => !isResponse(line)),
    ),
  ]
}

const messageOf = (error: unknown) => (error instanceof Error ? error.message : String(error))
