import type { Setting } from '../../core/sweep/setting.ts'
import { labelOf } from '../../core/sweep/default-values.ts'

/** A value as it is said. */
export const valueWord = (value: unknown) => (typeof value === 'string' ? value || 'none' : JSON.stringify(value))

/** Settings in a few words: "Fetch slots 4, Coming up 2". */
export const settingsWord = (settings: readonly Setting[]) =>
  settings.map(({ path, value }) => `${labelOf(path)} ${valueWord(value)}`).join(', ')
