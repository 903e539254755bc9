/**
 * What one pair has shown: our work a frame at p95, ms, and shares of late frames of the drive and of two other pages.
 */
export interface Pair {
  p95: number
  late: number
  lateEmpty: number
  lateMoved: number
}

const dbName = 'tile-tug'

/** Drives the open project so often, each time after an empty page and one of canvases that are only moved. */
async function measure(pairs: number): Promise<Pair[]> {
  const measured: Pair[] = []
  // What looked on goes away first.
  await rest(3000)
  for (let i = 0; i < pairs; i++) {
    const lateEmpty = await lateFrames(null)
    const lateMoved = await lateOfMovedCanvases()
    await rest(500)
    const before = await keptRuns()
    ;[...document.querySelectorAll('button')].find(({ textContent }) => textContent?.includes('Drive live'))!.click()
    while ((await keptRuns()) === before) await rest(500)
    const { 'frames.workP95': p95, 'frames.late': late, 'frames.count': count } = await lastRun()
    measured.push({ p95: p95!, late: late! / count!, lateEmpty, lateMoved })
  }
  return measured
}
Object.assign(window, { measure })

const rest = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

/**
 * The share of late frames while as many canvases as the list has move as fast in its place, rows that leave at the top
 * coming in again below, with nothing bound, asked for or drawn: what layers and their compositing take by themselves.
 */
async function lateOfMovedCanvases(): Promise<number> {
  const glass = document.querySelector<HTMLElement>('.tt-glass')!
  const scale = glass.getBoundingClientRect().width / glass.offsetWidth
  const host = document.createElement('div')
  const list = document.createElement('div')
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
    cell.append(canvas)
    list.append(cell)
  }
  host.append(list)
  glass.append(host)
  try {
    return await lateFrames(list)
  } finally {
    host.remove()
  }
}

/** The share of frames that come a refresh late; the rows of a list move meanwhile when there is one. */
async function lateFrames(list: HTMLElement | null): Promise<number> {
  const [rows, rowDp, columns, dpPerS] = [11, 86, 4, 6000]
  const frame = () => new Promise<number>((resolve) => requestAnimationFrame(resolve))
  const began = await frame()
  let last = began
  let count = 0
  let first = 0
  for (let i = 0; i < 360; i++) {
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
  return count / 360
}

/** How many runs the app has kept: counted, for reading them would take time that is measured. */
const keptRuns = () => inRuns((runs) => runs.count())

/** The figures of the newest of them. */
async function lastRun(): Promise<Record<string, number>> {
  const cursor = await inRuns((runs) => runs.openCursor(null, 'prev'))
  return (cursor!.value as { metrics: Record<string, number> }).metrics
}

async function inRuns<T>(ask: (runs: IDBObjectStore) => IDBRequest<T>): Promise<T> {
  const db = await answer(indexedDB.open(dbName))
  try {
    return await answer(ask(db.transaction('runs').objectStore('runs')))
  } finally {
    db.close()
  }
}

const answer = <T>(request: IDBRequest<T>) =>
  new Promise<T>((resolve, reject) => {
    request.onsuccess = () => resolve(request.result)
    request.onerror = () => reject(new Error(String(request.error)))
  })
