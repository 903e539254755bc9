import { useLiveQuery } from 'dexie-react-hooks'
import { useMemo } from 'react'
import type { StoredRun } from '../store/database.ts'
import { useProject } from '../store/project-store.ts'
import { useRuns } from '../store/run-store.ts'
import { readRuns } from '../store/stored-runs.ts'

/** Names of the compared runs, in their order. */
export const letters = ['A', 'B', 'C', 'D', 'E', 'F'] as const
export const most = letters.length

/** The runs of this project; those of the project that it was copied from come first. */
export function useComparable(): readonly StoredRun[] {
  const { list } = useRuns()
  const { copyOf } = useProject()!
  const originals = useLiveQuery(() => (copyOf === null ? [] : readRuns(copyOf)), [copyOf])
  // Those that were made before it was copied are its own as well.
  return useMemo(() => {
    const own = new Set(list.map(({ when, hash }) => `${when} ${hash}`))
    return [...(originals ?? []).filter(({ when, hash }) => !own.has(`${when} ${hash}`)), ...list]
  }, [list, originals])
}

/** The runs that the address names; else the newest, and the run that it is best compared with. */
export function chooseRuns(list: readonly StoredRun[], named: string | null): StoredRun[] {
  const wanted = (named ?? '')
    .split(',')
    .flatMap((id) => list.find((run) => String(run.id) === id) ?? [])
    .slice(0, most)
  if (new Set(wanted).size === wanted.length && wanted.length >= 2) return wanted
  const b = list.at(-1)
  const others = list.filter((run) => run !== b)
  const a =
    others.find(({ baseline }) => baseline) ??
    others.findLast(({ script, screen }) => script === b?.script && screen === b.screen) ??
    others.at(-1)
  return a && b ? [a, b] : []
}

export const nameOf = (run: StoredRun, project: string) =>
  `${run.project === project ? '' : 'original: '}run ${run.number}${run.name ? ` ${run.name}` : ''} · ${run.world}, ${run.visit} · ${run.script}${run.baseline ? ' · baseline' : ''}`

/** Whether two runs were driven by the same gesture on the same screen, so that their figures can be subtracted. */
export const areAlike = (one: StoredRun, other: StoredRun) => one.script === other.script && one.screen === other.screen
