import { useStore } from 'zustand'
import { createStore as createVanilla } from 'zustand/vanilla'

export interface Store<T> {
  get: () => T
  set: (next: T) => void
  /** Calls the listener with each new value as soon as it is set, before any view is drawn of it. @returns stops it */
  follow: (hear: (value: T) => void) => () => void
  /** Subscribes a view to the whole value, or to a part of it: it is drawn again when that changes. */
  use: { (): T; <Part>(part: (value: T) => Part): Part }
}

/** A value outside of React that views subscribe to. */
export function createStore<T>(initial: T): Store<T> {
  const store = createVanilla<T>(() => initial)
  const whole = (value: T) => value
  return {
    get: store.getState,
    set: (next) => store.setState(next, true),
    follow: (hear) => store.subscribe((value) => hear(value)),
    use: <Part>(part: (value: T) => Part = whole as never) => useStore(store, part),
  }
}
