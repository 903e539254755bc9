import { useStore } from 'zustand'
import { createStore as createVanilla } from 'zustand/vanilla'

export interface Store<T> {
  get: () => T
  set: (next: T) => void
  /** Tells each new value as soon as it is set, before any view is drawn of it. @returns ends it */
  follow: (hear: (value: T) => void) => () => void
  /** Follows the whole, or a part of it: a view is drawn again when what it follows is another. */
  use: { (): T; <Part>(part: (value: T) => Part): Part }
}

/** A value outside of React that views follow. */
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
