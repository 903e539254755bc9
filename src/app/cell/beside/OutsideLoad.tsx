import { Fold } from '../../controls/Fold.tsx'
import FormControl from 'react-bootstrap/FormControl'
import FormSelect from 'react-bootstrap/FormSelect'
import { useState } from 'react'
import Button from 'react-bootstrap/Button'
import { failWords } from '../../../core/loading/fail-words.ts'
import { Progress } from '../../controls/Progress.tsx'
import type { OutsideUpdate } from '../../../core/list/outside-loads.ts'
import { currentRun, useDevice } from '../../device/device-store.ts'
import { Chip } from '../../controls/Chip.tsx'

/** The largest picture that is decoded, px a side. */
const mostPx = 16_384

const refusal =
  'Refused: waiting on the main thread would hold every frame, and the finger, for as long as the network takes.'

/** A picture for another use than the list: loaded on the live device at a fixed size, without being shown. */
export function OutsideLoad({ density }: { density: number }) {
  const mode = useDevice(({ mode }) => mode)
  const [address, setAddress] = useState('tiles/4711')
  const [side, setSide] = useState(96)
  const [unit, setUnit] = useState<'px' | 'dp'>('px')
  const [update, setUpdate] = useState<OutsideUpdate | string | null>(null)
  return (
    <Fold title="A picture outside the list" className="tt-outside">
      <form
        className="tt-source-line"
        onSubmit={(event) => {
          event.preventDefault()
          const px = Math.min(mostPx, Math.max(1, Math.round(unit === 'px' ? side : side * density)))
          currentRun()?.run.loadOutside(address.trim(), px, setUpdate)
        }}
      >
        <FormControl
          size="sm"
          aria-label="Its address"
          required
          value={address}
          onChange={(event) => {
            setAddress(event.target.value)
            // The result on display was for another address.
            setUpdate(null)
          }}
        />
        <FormControl
          size="sm"
          aria-label="Longer side"
          type="number"
          min={1}
          max={mostPx}
          required
          value={side}
          onChange={(event) => {
            setSide(Number(event.target.value))
            setUpdate(null)
          }}
        />
        <FormSelect
          size="sm"
          aria-label="Unit of the longer side"
          data-explain={`At the density of the device 1 dp is ${density} px`}
          value={unit}
          onChange={(event) => {
            setUnit(event.target.value as typeof unit)
            setUpdate(null)
          }}
        >
          <option>px</option>
          <option>dp</option>
        </FormSelect>
        <Button size="sm" type="submit" variant="outline-primary" disabled={mode !== 'hand'}>
          Load it
        </Button>
        <Chip onClick={() => setUpdate(refusal)}>wait for it on the main thread</Chip>
      </form>
      <div role="status">{typeof update === 'string' ? update : update && <UpdateText update={update} />}</div>
    </Fold>
  )
}

function UpdateText({ update }: { update: OutsideUpdate }) {
  switch (update.is) {
    case 'waiting':
      return <>In line…</>
    case 'arriving':
      return (
        <>
          <Progress name="Loading the picture" share={update.total ? update.received / update.total : null} />
          {update.received.toLocaleString('en')} of {update.total?.toLocaleString('en') ?? 'an unknown number of'} bytes
        </>
      )
    case 'used':
      return (
        <>
          {update.width} × {update.height} px from {update.tier}, {update.bytes.toLocaleString('en')} bytes, in{' '}
          {Math.round(update.ms)} ms: {update.address}
        </>
      )
    case 'failed':
      return (
        <>
          Picture unavailable: {update.status ?? failWords[update.reason] ?? update.reason}, after{' '}
          {Math.round(update.ms)} ms: {update.address}
        </>
      )
    case 'interrupted':
      return <>Interrupted after {Math.round(update.ms)} ms: the list was restarted.</>
  }
}
