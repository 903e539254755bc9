import type { Screen } from '../../core/project/types.ts'
import { Amount } from '../controls/Amount.tsx'
import { Choice } from '../controls/Choice.tsx'

/** Where the picture is in its cell, and how cells are laid out beside each other. */
export function CellLayout({ screen, number, kind }: { screen: Screen; number: number; kind: number }) {
  const { columns, gapDp } = screen.layout
  return (
    <section className="tt-card" aria-label="Cell">
      <h2>Cell</h2>
      <Choice
        path={`/screens/${number}/cells/${kind}/arrangement`}
        value={screen.cells[kind]!.arrangement}
        names={{
          'picture-only': 'alone',
          'picture-start': 'start',
          'picture-end': 'end',
          'picture-top': 'top',
          'picture-under': 'under',
        }}
      />
      <Amount path={`/screens/${number}/layout/columns`} value={columns} from={1} to={8} />
      <Amount path={`/screens/${number}/layout/gapDp`} value={gapDp} from={0} to={40} />
    </section>
  )
}
