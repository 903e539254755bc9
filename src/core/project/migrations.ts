import { projectVersion } from './project-schema.ts'

type Raw = Record<string, unknown>

/** Step n turns a file of version n into one of version n + 1. Version 1 is the first, so there is none yet. */
const steps: Record<number, (file: Raw) => Raw> = {}

/** Brings an older project file to this version; a file of this version comes back as it is. */
export function migrate(file: Raw): Raw {
  let current = file
  for (let version = Number(file.version); version < projectVersion; version++) {
    const step = steps[version]
    if (!step) throw new Error(`no migration from project version ${version}`)
    current = { ...step(current), version: version + 1 }
  }
  return current
}
