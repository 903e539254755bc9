import { useEffect, useRef, useState } from 'react'
import type { Change } from '../../core/compare/prove.ts'
import { parseProject } from '../../core/project/parse.ts'
import { seenPictures } from '../device/device-store.ts'
import { Cancelled, proofWorker } from '../simulate/worker-client.ts'
import type { StoredRun } from '../store/database.ts'
import { itemsToGive } from '../store/feed-store.ts'

type State =
  { is: 'idle' } | { is: 'running'; share: number } | { is: 'done'; changes: Change[] } | { is: 'failed'; why: string }
export type Seeds = State & { start: () => void; cancel: () => void }

/** Both runs' settings simulated on the same ten seeds, on request; another pair starts over. */
export function useSeeds(a: StoredRun | undefined, b: StoredRun | undefined): Seeds {
  const pair = `${a?.id} ${b?.id}`
  const [held, setHeld] = useState<{ pair: string; state: State }>({ pair, state: { is: 'idle' } })
  const cancel = useRef<() => void>(() => undefined)
  useEffect(() => () => cancel.current(), [pair])
  const state: State = held.pair === pair ? held.state : { is: 'idle' }
  const set = (next: State) => setHeld({ pair, state: next })
  const run = async (one: StoredRun, other: StoredRun) => {
    const parsed = parseProject(other.raw)
    const screen = parsed.ok ? parsed.project.screens.find(({ id }) => id === other.screen) : undefined
    const items = screen ? await itemsToGive(other.project, screen) : null
    const { script, seed, visit } = other
    const job = proofWorker.ask(
      'compare',
      {
        raw: one.raw,
        other: other.raw,
        screen: other.screen,
        script,
        seed,
        visit,
        items,
        seen: seenPictures(),
      },
      (share) => set({ is: 'running', share }),
    )
    cancel.current = job.cancel
    set({ is: 'done', changes: await job.result })
  }
  return {
    ...state,
    start: () => {
      if (!a || !b) return
      set({ is: 'running', share: 0 })
      run(a, b).catch((error: unknown) =>
        set(
          error instanceof Cancelled
            ? { is: 'idle' }
            : { is: 'failed', why: error instanceof Error ? error.message : String(error) },
        ),
      )
    },
    cancel: () => cancel.current(),
  }
}
