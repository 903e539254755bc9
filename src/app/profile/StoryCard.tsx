import { useEffect, useState } from 'react'
import CloseButton from 'react-bootstrap/CloseButton'
import type { Story } from '../../core/profile/stories.ts'
import { classWords } from '../map/map-words.ts'
import { runWorker } from '../simulate/worker-client.ts'
import type { StoredLog } from '../store/database.ts'

interface StoryCardProps {
  kept: StoredLog
  hash: string
  request: number
  onClose: () => void
}

/** A request told as sentences with times and reasons. */
export function StoryCard({ kept, hash, request, onClose }: StoryCardProps) {
  const [told, setTold] = useState<{ request: number; story: Story | null; trouble: string | null } | null>(null)
  useEffect(() => {
    let stands = true
    runWorker.ask({ do: 'story', log: kept.log, hash, request }).result.then(
      (answer) => stands && answer.is === 'story' && setTold({ request, story: answer.story, trouble: null }),
      (error: unknown) => stands && setTold({ request, story: null, trouble: error instanceof Error ? error.message : String(error) }),
    )
    return () => {
      stands = false
    }
  }, [kept, hash, request])
  const story = told?.request === request ? told.story : null
  return (
    <section className="tt-card tt-story" aria-label={`Story of request ${request}`} tabIndex={0}>
      <header>
        <h2>Request {request}{story && <> · <span aria-hidden style={{ color: `var(${classWords[story.outcome].hue})` }}>{classWords[story.outcome].glyph}</span> {classWords[story.outcome].name}</>}</h2>
        <CloseButton aria-label="Close the story" onClick={onClose} />
      </header>
      {told?.trouble && <p role="alert">The story could not be told: {told.trouble}</p>}
      {story && (
        <>
          <p className="tt-address" title={story.address}>{story.address}</p>
          <ol>
            {story.sentences.map((sentence, i) => (
              <li key={i}><time>{(sentence.t / 1000).toFixed(2)} s</time> {sentence.text}</li>
            ))}
          </ol>
        </>
      )}
      {told && !story && !told.trouble && <p>There is no request {request} in this run.</p>}
    </section>
  )
}
