import FormControl from 'react-bootstrap/FormControl'
import { useState } from 'react'
import Button from 'react-bootstrap/Button'
import type { Slot } from '../../../core/project/types.ts'
import { set } from '../../store/project-store.ts'
import { Chip } from '../../controls/Chip.tsx'

const most = 8

/**
 * What is tried when a picture cannot be loaded: other addresses or packaged pictures, one after the other; and whether
 * a tap requests it again.
 */
export function Fallbacks({ slot, path }: { slot: Slot; path: string }) {
  const { fallbacks, retry } = slot.stages.failed
  const [text, setText] = useState('')
  const at = `${path}/stages/failed`
  return (
    <>
      <div className="tt-field" data-explain="A tap on the device requests a failed picture again">
        <span>Retry</span>
        <Chip aria-pressed={retry} onClick={() => set(`${at}/retry`, !retry)}>
          offered by a tap
        </Chip>
      </div>
      <form
        className="tt-fallbacks"
        onSubmit={(event) => {
          event.preventDefault()
          set(`${at}/fallbacks`, [...fallbacks, text.trim()])
          setText('')
        }}
      >
        {fallbacks.map((address, i) => (
          <Chip
            key={`${i} ${address}`}
            aria-label={`Fallback ${i + 1}, ${address}: remove it`}
            onClick={() =>
              set(
                `${at}/fallbacks`,
                fallbacks.filter((_, each) => each !== i),
              )
            }
          >
            {i + 1}. {address} ×
          </Chip>
        ))}
        {fallbacks.length < most && (
          <>
            <FormControl
              size="sm"
              aria-label="Another fallback"
              placeholder="else: an address, or packaged:name"
              value={text}
              required
              onChange={(event) => setText(event.target.value)}
            />
            <Button size="sm" variant="outline-primary" type="submit">
              Add
            </Button>
          </>
        )}
      </form>
    </>
  )
}
