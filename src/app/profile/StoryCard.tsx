import CloseButton from 'react-bootstrap/CloseButton'
import { classWords } from '../map/map-words.ts'
import type { StoredLog } from '../store/database.ts'
import { useAnswer } from './use-answer.ts'
import type { Way } from './WayCard.tsx'
import { TextButton } from '../controls/TextButton.tsx'

interface StoryCardProps {
  kept: StoredLog
  hash: string
  request: number
  onMoment: (ms: number) => void
  onWay: (way: Way) => void
  onClose: () => void
}

/** A request as sentences with times and reasons. */
export function StoryCard({ kept, hash, request, onMoment, onWay, onClose }: StoryCardProps) {
  const { answer: story, trouble } = useAnswer('story', hash, [request], () => ({ log: kept.log, hash, request }))
  return (
    <section className="tt-card tt-story" aria-label={`Story of request ${request}`} tabIndex={0}>
      <header>
        <h2>
          Request {request}
          {story && (
            <>
              {' '}
              ·{' '}
              <span aria-hidden style={{ color: `var(${classWords[story.outcome].hue})` }}>
                {classWords[story.outcome].glyph}
              </span>{' '}
              {classWords[story.outcome].name}
            </>
          )}
        </h2>
        <CloseButton aria-label="Close the story" onClick={onClose} />
      </header>
      {trouble && <p role="alert">The story could not be loaded: {trouble}</p>}
      {story && (
        <>
          <p className="tt-address" tabIndex={0} data-explain={story.address}>
            {story.address}
          </p>
          <p className="tt-ways">
            {story.items.map((number) => (
              <TextButton key={`i${number}`} onClick={() => onWay({ of: 'item', number })}>
                item {number}
              </TextButton>
            ))}
            {story.cells.map((number) => (
              <TextButton key={`c${number}`} onClick={() => onWay({ of: 'cell', number })}>
                cell {number}
              </TextButton>
            ))}
          </p>
          <ol>
            {story.sentences.map((sentence, i) => (
              <li key={i}>
                <TextButton data-explain="Moves the cursor there" onClick={() => onMoment(sentence.t)}>
                  {(sentence.t / 1000).toFixed(2)} s
                </TextButton>{' '}
                {sentence.text}
              </li>
            ))}
          </ol>
        </>
      )}
      {story === null && <p>There is no request {request} in this run.</p>}
    </section>
  )
}
