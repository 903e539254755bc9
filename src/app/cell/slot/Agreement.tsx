import Button from 'react-bootstrap/Button'
import type { Disagreement } from '../../../core/layout/frame-agreement.ts'
import type { Slot } from '../../../core/project/types.ts'
import { edit } from '../../store/project-store.ts'
import { useRuns } from '../../store/run-store.ts'

/** Reports which stages take a different size from the settled picture, and fixes it with one click. */
export function Agreement({ apart, slot, path }: { apart: readonly Disagreement[]; slot: Slot; path: string }) {
  const jumps = useRuns().list.at(-1)?.metrics['pictures.jumps'] ?? null
  const first = apart.find(({ stage }) => stage === 'waiting') ?? apart[0]
  if (!first) return null
  const framed = Object.entries(slot.stages).flatMap(([stage, look]) =>
    typeof look === 'object' && look !== null && 'frame' in look && look.frame !== undefined ? [stage] : [],
  )
  const height = Math.abs(Math.round(first.heightDp * 10) / 10)
  return (
    <p className="tt-agreement" role="status">
      <strong>
        “{first.stage}” is{' '}
        {height === 0 ? 'laid out otherwise than' : `${height} dp ${first.heightDp < 0 ? 'shorter' : 'taller'} than`}{' '}
        “settled”.
      </strong>{' '}
      Each arrival moves what is below
      {first.textsMoved > 0 ? `, and ${first.textsMoved} lines of text by ${Math.round(first.textDp)} dp` : ''}
      {jumps === null ? '.' : `: ${jumps} jumps in the last run.`}{' '}
      <Button
        size="sm"
        variant="link"
        onClick={() =>
          edit(
            'agree',
            framed.map((stage) => ({ op: 'remove', path: `${path}/stages/${stage}/frame` })),
          )
        }
      >
        Hold the slot’s frame in every stage
      </Button>
    </p>
  )
}
