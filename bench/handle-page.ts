/**
 * From a key to an answer on the page, ms, least first: its first part and all of it, and its first part while a key is
 * held down.
 */
export interface Answers {
  first: number[]
  whole: number[]
  held: number[]
}

const changes = 40
/** A hand that drags an edge from row to row, and a key that is held down: so long from one change to the next, ms. */
const [dragMs, heldKeyMs] = [100, 33]

const times = { first: [] as number[], whole: [] as number[] }
let heard: () => void = () => undefined

/** Moves the handle that has the focus. */
async function measure(): Promise<Answers> {
  // As long as a hand takes from coming near a handle to having taken it, and a little more; what looked on goes away.
  await rest(3000)
  await move('whole', dragMs)
  await move('first', heldKeyMs)
  // The first half of each still warms up.
  const late = (list: number[], from: number) => list.slice(from + changes / 2, from + changes).sort((a, b) => a - b)
  return { first: late(times.first, 0), whole: late(times.whole, 0), held: late(times.first, changes) }
}
Object.assign(window, { measure })

/** Presses keys, each when the one before has its answer, or all of it, and so long after it. */
async function move(until: keyof typeof times, everyMs: number): Promise<void> {
  for (let i = 0; i < changes; i++) {
    const since = performance.now()
    const answer = answered(until, times[until].length + 1)
    const key = i % 6 < 3 ? 'ArrowDown' : 'ArrowUp'
    document.activeElement!.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }))
    await answer
    await rest(Math.max(0, since + everyMs - performance.now()))
  }
}

/** Resolves when so many changes have had the first part of their answer, or all of it. */
function answered(which: keyof typeof times, count: number): Promise<void> {
  return new Promise((resolve) => {
    heard = () => times[which].length >= count && resolve()
    heard()
  })
}

const rest = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

let pressed = 0
let asked = 0
// From the key itself: what the page does before it asks counts as well.
addEventListener('keydown', ({ timeStamp }) => (pressed = timeStamp), { capture: true })

const post = Worker.prototype.postMessage
Worker.prototype.postMessage = function (
  this: Worker,
  message: { id?: number; type?: string; name?: string },
  ...more: []
) {
  // The same change may be simulated beside it once more: the first that answers counts.
  if (message?.type === 'start' && message.name === 'follow' && pressed !== asked) {
    asked = pressed
    listenTo(this, message.id!, pressed)
  }
  post.call(this, message, ...more)
}

/** Notes when a worker's answer to an order comes, counted from a key. */
function listenTo(worker: Worker, id: number, from: number): void {
  let isFirst = true
  const hear = ({ data }: MessageEvent<{ id: number; type: string }>) => {
    if (data.id !== id) return
    const ms = performance.now() - from
    if (isFirst) times.first.push(ms)
    isFirst = false
    if (data.type === 'done') times.whole.push(ms)
    if (data.type !== 'part') worker.removeEventListener('message', hear)
    heard()
  }
  worker.addEventListener('message', hear)
}
