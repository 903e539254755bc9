import { createStore } from '../store/external-store.ts'

/** The hints in their order; "away" once all have been followed, or were closed. */
export const hintNames = ['drive', 'profile', 'try', 'feed'] as const
export type HintName = (typeof hintNames)[number]

interface Preferences {
  hint: HintName | 'away'
  /** Whether single keys are shortcuts. */
  singleKeys: boolean
}

const place = 'tile-tug preferences'

const store = createStore<Preferences>(stored())
export const usePreferences = store.use
export const currentPreferences = store.get

/** Kept in this browser where it allows that; else for as long as the page is open. */
export function prefer(change: Partial<Preferences>): void {
  store.set({ ...store.get(), ...change })
  try {
    localStorage.setItem(place, JSON.stringify(store.get()))
  } catch {
    // A browser that refuses storage is reported elsewhere; preferences are the least of what is lost.
  }
}

/** The next hint, once the present one's action has been done. */
export function followed(hint: HintName): void {
  if (store.get().hint !== hint) return
  prefer({ hint: hintNames[hintNames.indexOf(hint) + 1] ?? 'away' })
}

function stored(): Preferences {
  const preferences: Preferences = { hint: 'drive', singleKeys: true }
  try {
    const kept = JSON.parse(localStorage.getItem(place) ?? '{}') as Partial<Record<keyof Preferences, unknown>>
    const hint = [...hintNames, 'away' as const].find((each) => each === kept.hint)
    if (hint) preferences.hint = hint
    if (typeof kept.singleKeys === 'boolean') preferences.singleKeys = kept.singleKeys
  } catch {
    // Damaged or refused: as for a new user.
  }
  return preferences
}
