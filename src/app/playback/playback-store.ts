import { createStore } from '../store/external-store.ts'

/** The run that is played back, its cursor and its speed; null: the device is live. */
export interface Played {
  run: number
  ms: number
  endMs: number
  playing: boolean
  speed: number
}

const store = createStore<Played | null>(null)
export const usePlayed = store.use
export const currentPlayed = store.get

/** Shows the device as it was in a run at a moment, paused. */
export function playAt(run: number, ms: number, endMs: number): void {
  const now = store.get()
  store.set({
    run,
    endMs,
    ms: Math.min(endMs, Math.max(0, ms)),
    playing: now?.run === run && now.playing,
    speed: now?.speed ?? 1,
  })
}

export function setSpeed(speed: number): void {
  const now = store.get()
  if (now) store.set({ ...now, speed })
}

/** The device is live again. */
export function stopPlaying(): void {
  store.set(null)
}

/** Plays from the cursor, or pauses; from the start when it is at the end. */
export function togglePlaying(): void {
  const now = store.get()
  if (!now) return
  store.set({ ...now, playing: !now.playing, ms: !now.playing && now.ms >= now.endMs ? 0 : now.ms })
  if (!now.playing) requestAnimationFrame((at) => advance(at, at))
}

function advance(before: number, at: number): void {
  const now = store.get()
  if (!now?.playing) return
  const ms = now.ms + (at - before) * now.speed
  store.set({ ...now, ms: Math.min(now.endMs, ms), playing: ms < now.endMs })
  requestAnimationFrame((next) => advance(at, next))
}
