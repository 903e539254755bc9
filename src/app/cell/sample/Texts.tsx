import type { Cell } from '../../../core/project/types.ts'
import { Amount } from '../../controls/Amount.tsx'
import { edit } from '../../store/project-store.ts'
import { Chip } from '../../controls/Chip.tsx'

/** The lines of text beside the picture: how large, how many lines, how much room below. */
export function Texts({ cell, path }: { cell: Cell; path: string }) {
  if (cell.texts.length === 0) return null
  return (
    <details className="tt-card tt-same-look">
      <summary>Texts</summary>
      <div className="tt-cards">
        {cell.texts.map((line, i) => (
          <section key={i} aria-label={`Text ${line.at}`}>
            <h2>
              {line.at}{' '}
              <Chip
                aria-label={`Remove the text ${line.at}`}
                onClick={() =>
                  edit('texts', [
                    { op: 'replace', path: `${path}/texts`, value: cell.texts.filter((_, each) => each !== i) },
                  ])
                }
              >
                ×
              </Chip>
            </h2>
            <Amount path={`${path}/texts/${i}/sizeDp`} value={line.sizeDp} from={8} to={32} />
            <Amount path={`${path}/texts/${i}/lines`} value={line.lines} from={1} to={6} />
            <Amount path={`${path}/texts/${i}/spareDp`} value={line.spareDp} from={0} to={24} />
          </section>
        ))}
      </div>
    </details>
  )
}
