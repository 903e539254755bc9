import { settingAt } from '../../core/project/settings-index.ts'

/** What is wrong with a value, by the label under which it is set, with its place in the file behind it. */
export function labelled(message: string): string {
  const pointer = /^(?:.*? )?(\/[^\s:]+): found /.exec(message)?.[1]
  const label = pointer === undefined ? null : labelOf(pointer)
  return label === null ? message : message.replace(`${pointer!}: found `, `${label}, ${pointer!}: found `)
}

/** The label of the setting at a place, or of the one that it is a part of; null: none has one. */
function labelOf(pointer: string): string | null {
  for (let at = pointer; at.lastIndexOf('/') > 0; at = at.slice(0, at.lastIndexOf('/'))) {
    try {
      const { label } = settingAt(at)
      if (!label.startsWith('/')) return label
    } catch {
      // There is no setting there: an unknown key is named by its place alone.
      return null
    }
  }
  return null
}
