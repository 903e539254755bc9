import { readFile } from 'node:fs/promises'
import { profileRun } from '../../src/core/profile/profile.ts'
import { parseProjectText } from '../../src/core/project/parse-text.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'

const parsed = parseProjectText(await readFile('demo/saltmarsh.tiletug.json', 'utf8'))
if (!parsed.ok) throw new Error(parsed.message)

/** A run of the demo as it comes, simulated, and its profile. */
export const demoLog = simulate(parsed.project).log
export const demoProfile = profileRun(demoLog)
