import Button from 'react-bootstrap/Button'
import { currentRun, useDevice } from './device-store.ts'

/** The state of the list as a whole: its feed is loading, is empty, or stopped at a page that failed. */
export default function FeedSign() {
  const feed = useDevice(({ feed }) => feed)
  const mode = useDevice(({ mode }) => mode)
  if (feed.is === 'shown' || mode === 'failed') return null
  return (
    <div className="tt-feed-sign" role="status" data-is={feed.is}>
      {feed.is === 'waiting' && 'Asking for the feed…'}
      {feed.is === 'empty' && 'This feed has no items.'}
      {feed.is === 'failed' && (
        <>
          Page {feed.page} failed: {feed.message}
          <Button size="sm" variant="outline-primary" onClick={() => currentRun()?.run.askPageAgain()}>
            Ask again
          </Button>
        </>
      )}
    </div>
  )
}
