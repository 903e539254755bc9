import { useEffect, useState } from 'react'
import { isTrusted } from '../../core/compare/fidelity.ts'
import type { Proven } from '../../core/compare/prove.ts'
import type { Suspicion } from '../../core/profile/findings/suspicion.ts'
import { parseProject } from '../../core/project/parse.ts'
import { seenPictures } from '../device/device-store.ts'
import { Cancelled, proofWorker } from '../simulate/worker-client.ts'
import type { StoredLog, StoredRun } from '../store/database.ts'
import { itemsToGive } from '../store/feed-store.ts'

export type Findings =
  | { is: 'looking'; share: number; cancel: () => void }
  | ({ is: 'found' } & Proven)
  /** A recorded run whose world is not known well enough to prove anything on it. */
  | { is: 'suspected'; suspicions: Suspicion[] }
  | { is: 'failed'; why: string }
  | { is: 'cancelled' }

/** Findings of recently opened runs, by their number in this browser: log and settings never change. */
const known = new Map<number, Extract<Findings, { is: 'found' | 'suspected' }>>()
const mostKnown = 12

/** Looks for possible improvements of a run, and proves them; the newest run that was asked about counts. */
export function useFindings(run: StoredRun | undefined, kept: StoredLog | undefined): Findings | null {
  const [state, setState] = useState<{ run: number; findings: Findings } | null>(null)
  const id = run?.id
  useEffect(() => {
    if (!run || !kept) return
    let current = true
    const set = (findings: Findings) => current && setState({ run: run.id, findings })
    const before = known.get(run.id)
    let cancel: () => void = () => undefined
    const look = async () => {
      if (before) return void set(before)
      const parsed = parseProject(run.raw)
      const screen = parsed.ok ? parsed.project.screens.find((each) => each.id === run.screen) : undefined
      const items = screen ? await itemsToGive(run.project, screen) : null
      const { raw, screen: name, script, seed, visit, hash } = run
      // A run from a file may be of another project: nothing of it can be simulated without its screen and script.
      const isKnown =
        screen !== undefined && parsed.ok && parsed.project.scripts.some((each) => each.name === run.script)
      const prove = isKnown && (run.world !== 'recorded' || isTrusted(run.metrics['fidelity.bytes'] ?? null))
      if (!current) return
      const job = proofWorker.ask(
        'findings',
        { log: kept.log, hash, raw, screen: name, script, seed, visit, items, seen: seenPictures(), prove },
        (share) => set({ is: 'looking', share, cancel }),
      )
      cancel = job.cancel
      set({ is: 'looking', share: 0, cancel })
      const answer = await job.result
      const found =
        'proven' in answer
          ? { is: 'found' as const, ...answer.proven }
          : { is: 'suspected' as const, suspicions: answer.suspicions }
      if (known.size >= mostKnown) known.delete(known.keys().next().value!)
      known.set(run.id, found)
      set(found)
    }
    look().catch((error: unknown) =>
      set(
        error instanceof Cancelled
          ? { is: 'cancelled' }
          : { is: 'failed', why: error instanceof Error ? error.message : String(error) },
      ),
    )
    return () => {
      current = false
      cancel()
    }
    // The run is the input: its log and settings never change.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [id, kept?.run])
  return state && state.run === id ? state.findings : null
}
