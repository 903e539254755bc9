import { readJson } from './json-text.ts'
import { parseProject, type ParseOutcome } from './parse.ts'

/** Parses the text of a project file (formats.md). Never throws for any text. */
export function parseProjectText(text: string): ParseOutcome {
  const read = readJson(text)
  return read.ok ? parseProject(read.value) : read
}
