import { settingAt } from '../../core/project/settings-index.ts'

/** A validation error with the label under which the value is set, and its place in the file. */
export function labelled(message: string): string {
  const pointer = /^(?:.*? )?(\/[^\s:]+): found /.exec(message)?.[1]
  const label = pointer === undefined ? null : labelOf(pointer)
  return label === null ? message : message.replace(`${pointer!}: found `, `${label}, ${pointer!}: found `)
}

/** The label of the setting at a place, or of the one that contains it; null: none has one. */
function labelOf(pointer: string): string | null {
  for (let at = pointer; at.lastIndexOf('/') > 0; at = at.slice(0, at.lastIndexOf('/'))) {
    try {
      const { label } = settingAt(at)
      if (!label.startsWith('/')) return label
    } catch {
      // There is no such setting: an unknown key is named by its place alone.
      return null
    }
  }
  return null
}
