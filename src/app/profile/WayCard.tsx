import CloseButton from 'react-bootstrap/CloseButton'
import type { StoredLog } from '../store/database.ts'
import { useAnswer } from './use-answer.ts'
import { TextButton } from '../controls/TextButton.tsx'

export interface Way {
  of: 'cell' | 'item'
  number: number
}

interface WayCardProps {
  kept: StoredLog
  hash: string
  way: Way
  onRequest: (request: number) => void
  onMoment: (ms: number) => void
  onClose: () => void
}

/** What a cell was bound to, one after the other, or what happened to an item; each sentence selects its moment. */
export function WayCard({ kept, hash, way, onRequest, onMoment, onClose }: WayCardProps) {
  const name = way.of === 'cell' ? `cell ${way.number}` : `item ${way.number}`
  const { answer, trouble } = useAnswer('way', hash, [way.of, way.number], () => ({
    log: kept.log,
    hash,
    ...way,
  }))
  return (
    <section className="tt-card tt-story" aria-label={`Story of ${name}`} tabIndex={0}>
      <header>
        <h2>
          {way.of === 'cell' ? 'Cell' : 'Item'} {way.number}
          {answer?.key ? ` · ${answer.key}` : ''}
        </h2>
        <CloseButton aria-label="Close the story" onClick={onClose} />
      </header>
      {trouble && <p role="alert">The story could not be loaded: {trouble}</p>}
      {answer === null && <p>This run has no {name}.</p>}
      {answer && (
        <ol>
          {answer.sentences.map((sentence, i) => (
            <li key={i}>
              <TextButton data-explain="Moves the cursor there" onClick={() => onMoment(sentence.t)}>
                {(sentence.t / 1000).toFixed(2)} s
              </TextButton>{' '}
              {sentence.text}
              {sentence.request !== undefined && (
                <TextButton onClick={() => onRequest(sentence.request!)}>request {sentence.request}</TextButton>
              )}
            </li>
          ))}
        </ol>
      )}
    </section>
  )
}
