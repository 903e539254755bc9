import { decodeLog, type EncodedLog } from '../src/core/log/log-encoding.ts'
import type { NetworkSettings } from '../src/core/project/types.ts'

/**
 * What one round has shown: our work a frame at p95, ms; the drive's rate; and shares of late frames of the drive and
 * of four other pages.
 */
export interface Round {
  p95: number
  refreshHz: number
  late: number
  lateEmpty: number
  lateMoved: number
  lateLoading: number
  lateShowing: number
}

/** `count` rounds; the pictures that the drive loads, and by what network. */
interface Given {
  count: number
  addresses: string[]
  network: NetworkSettings
}

/** As long as the drive, frames. */
const frames = 490
/** As many as the drive loads at once. */
const atOnce = 6
/** As long as the drive's arrivals take. */
const fadeMs = 200

const dbName = 'tile-tug'

/**
 * Drives the open project so often, each time after an empty page, canvases that are only moved, bare loading beside
 * them, and bare loading that is shown in them.
 */
async function measure({ count, addresses, network }: Given): Promise<Round[]> {
  const measured: Round[] = []
  // What looked on goes away first.
  await rest(3000)
  for (let i = 0; i < count; i++) {
    const lateEmpty = await lateFrames(null)
    const lateMoved = await lateOfMovedCanvases()
    const lateLoading = await lateOfMovedCanvases(() => loadBare(addresses, network, (bitmap) => bitmap.close()))
    const lateShowing = await lateOfMovedCanvases((show) => loadBare(addresses, network, show))
    await rest(500)
    const before = await keptRuns()
    ;[...document.querySelectorAll('button')].find(({ textContent }) => textContent?.includes('Drive live'))!.click()
    while ((await keptRuns()) === before) await rest(500)
    const { 'frames.workP95': p95, 'frames.late': late, 'frames.count': driven } = await lastRun()
    measured.push({
      p95: p95!,
      refreshHz: await lastRate(),
      late: late! / driven!,
      lateEmpty,
      lateMoved,
      lateLoading,
      lateShowing,
    })
  }
  return measured
}
Object.assign(window, { measure })

const rest = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

/**
 * The share of late frames while as many canvases as the list has move as fast in its place, rows that leave at the top
 * coming in again below, with nothing bound, asked for or drawn: what layers and their compositing take by themselves.
 *
 * @param meanwhile what goes on beside it; what it is given shows a picture in one canvas after the other, faded in.
 */
async function lateOfMovedCanvases(
  meanwhile: (show: (bitmap: ImageBitmap) => void) => Promise<void> = () => Promise.resolve(),
): Promise<number> {
  const glass = document.querySelector<HTMLElement>('.tt-glass')!
  const scale = glass.getBoundingClientRect().width / glass.offsetWidth
  const host = document.createElement('div')
  const list = document.createElement('div')
  const contexts: CanvasRenderingContext2D[] = []
  host.style.cssText = 'position:absolute;inset:0;overflow:hidden;contain:strict;z-index:1'
  list.className = 'tt-list'
  for (let i = 0; i < 44; i++) {
    const cell = document.createElement('div')
    cell.className = 'tt-cell'
    cell.style.cssText = `width:100px;height:84px;transform:translate(${(i % 4) * 102}px,${Math.floor(i / 4) * 86}px)`
    const canvas = document.createElement('canvas')
    canvas.className = 'tt-picture'
    canvas.width = Math.round(200 * scale)
    canvas.height = Math.round(164 * scale)
    const context = canvas.getContext('2d')!
    context.fillStyle = `hsl(${i * 8} 60% 50%)`
    context.fillRect(0, 0, canvas.width, canvas.height)
    contexts.push(context)
    cell.append(canvas)
    list.append(cell)
  }
  host.append(list)
  glass.append(host)
  let shown = 0
  const show = (bitmap: ImageBitmap) => {
    const context = contexts[shown++ % contexts.length]!
    const { canvas } = context
    requestAnimationFrame(() => {
      context.drawImage(bitmap, 0, 0, canvas.width, canvas.height)
      bitmap.close()
      canvas.animate([{ opacity: 0 }, { opacity: 1 }], { duration: fadeMs, fill: 'backwards' })
    })
  }
  try {
    const [late] = await Promise.all([lateFrames(list), meanwhile(show)])
    return late
  } finally {
    host.remove()
  }
}

/**
 * Loads pictures and makes bitmaps of them, with nothing of ours but the session: what the browser and the server take
 * for it.
 */
async function loadBare(
  addresses: readonly string[],
  network: NetworkSettings,
  use: (bitmap: ImageBitmap) => void,
): Promise<void> {
  const opened = await fetch('/api/origin/sessions', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ network, seed: 1, headers: [], lasting: [] }),
  })
  const { id, base } = (await opened.json()) as { id: string; base: string }
  const waiting = [...addresses]
  const load = async () => {
    for (let address = waiting.pop(); address !== undefined; address = waiting.pop()) {
      const { pathname, search } = new URL(address)
      const reply = await fetch(base + pathname + search, { cache: 'no-store' })
      use(await createImageBitmap(await reply.blob()))
    }
  }
  await Promise.all(Array.from({ length: atOnce }, load))
  await fetch(`/api/origin/sessions/${id}`, { method: 'DELETE' })
}

/** The share of frames that come a refresh late; the rows of a list move meanwhile when there is one. */
async function lateFrames(list: HTMLElement | null): Promise<number> {
  const [rows, rowDp, columns, dpPerS] = [11, 86, 4, 6000]
  const frame = () => new Promise<number>((resolve) => requestAnimationFrame(resolve))
  const began = await frame()
  let last = began
  let count = 0
  let first = 0
  for (let i = 0; i < frames; i++) {
    const now = await frame()
    if (now - last > 25) count++
    last = now
    if (!list) continue
    const top = ((now - began) / 1000) * dpPerS
    list.style.transform = `translate3d(0, ${-top}px, 0)`
    for (; (first + 1) * rowDp < top; first++)
      for (let column = 0; column < columns; column++) {
        const cell = list.children[(first % rows) * columns + column] as HTMLElement
        cell.style.transform = `translate(${column * 102}px, ${(first + rows) * rowDp}px)`
      }
  }
  return count / frames
}

/** How many runs the app has kept: counted, for reading them would take time that is measured. */
const keptRuns = () => inStore('runs', (runs) => runs.count())

/** The figures of the newest of them. */
async function lastRun(): Promise<Record<string, number>> {
  const cursor = await inStore('runs', (runs) => runs.openCursor(null, 'prev'))
  return (cursor!.value as { metrics: Record<string, number> }).metrics
}

/** The rate that it was judged by, Hz. */
async function lastRate(): Promise<number> {
  const cursor = await inStore('runLogs', (logs) => logs.openCursor(null, 'prev'))
  return (await decodeLog((cursor!.value as { log: EncodedLog }).log)).head.refreshHz
}

async function inStore<T>(name: 'runs' | 'runLogs', ask: (store: IDBObjectStore) => IDBRequest<T>): Promise<T> {
  const db = await answer(indexedDB.open(dbName))
  try {
    return await answer(ask(db.transaction(name).objectStore(name)))
  } finally {
    db.close()
  }
}

const answer = <T>(request: IDBRequest<T>) =>
  new Promise<T>((resolve, reject) => {
    request.onsuccess = () => resolve(request.result)
    request.onerror = () => reject(new Error(String(request.error)))
  })
