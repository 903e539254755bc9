import FormControl from 'react-bootstrap/FormControl'
import { useState } from 'react'
import Button from 'react-bootstrap/Button'
import { Progress } from '../../controls/Progress.tsx'
import type { OutsideNews } from '../../../core/list/outside-loads.ts'
import { currentRun, useDevice } from '../../device/device-store.ts'
import { Chip } from '../../controls/Chip.tsx'

const refusal =
  'Refused: waiting on the main thread would hold every frame, and the finger, for as long as the network takes.'

/** A picture for another use than the list: loaded on the live device at a fixed size, without being shown. */
export function OutsideLoad() {
  const mode = useDevice(({ mode }) => mode)
  const [address, setAddress] = useState('tiles/4711')
  const [px, setPx] = useState(96)
  const [news, setNews] = useState<OutsideNews | string | null>(null)
  return (
    <details className="tt-card tt-outside">
      <summary>A picture outside the list, for a notification or to share</summary>
      <form
        className="tt-source-line"
        onSubmit={(event) => {
          event.preventDefault()
          currentRun()?.run.loadOutside(address.trim(), px, setNews)
        }}
      >
        <FormControl
          size="sm"
          aria-label="Its address"
          required
          value={address}
          onChange={(event) => setAddress(event.target.value)}
        />
        <FormControl
          size="sm"
          aria-label="Longer side, px"
          type="number"
          min={1}
          max={16_384}
          required
          value={px}
          onChange={(event) => setPx(Number(event.target.value))}
        />
        <Button size="sm" type="submit" variant="outline-primary" disabled={mode !== 'hand'}>
          Load it
        </Button>
        <Chip onClick={() => setNews(refusal)}>wait for it on the main thread</Chip>
      </form>
      <div role="status">{typeof news === 'string' ? news : news && <News news={news} />}</div>
    </details>
  )
}

function News({ news }: { news: OutsideNews }) {
  switch (news.is) {
    case 'waiting':
      return <>In line…</>
    case 'arriving':
      return <Progress name="Loading the picture" share={news.total ? news.received / news.total : null} />
    case 'used':
      return (
        <>
          {news.width} × {news.height} px from {news.tier}, {news.bytes.toLocaleString('en')} bytes, in{' '}
          {Math.round(news.ms)} ms: {news.address}
        </>
      )
    case 'failed':
      return (
        <>
          It failed after {Math.round(news.ms)} ms ({news.reason}): {news.address}
        </>
      )
    case 'interrupted':
      return <>Interrupted after {Math.round(news.ms)} ms: the list was restarted.</>
  }
}
