import FormControl from 'react-bootstrap/FormControl'
import { useState } from 'react'
import useSWRImmutable from 'swr/immutable'
import { textAt } from '../../../core/feed/json-pointer.ts'
import type { Item, Visual } from '../../../core/project/types.ts'
import { drawPreview } from '../../../live/hashed-preview.ts'
import { Chip } from '../../controls/Chip.tsx'
import { set } from '../../store/project-store.ts'

const forms = [
  ['data', 'picture data', 'A data address of a picture, or its base64 alone'],
  ['blurhash', 'blurhash', 'A blurhash: some 30 characters'],
  ['thumbhash', 'thumbhash', 'A thumbhash in base64: some 35 characters'],
] as const

interface OfItemProps {
  /** Where the visual is in the project. */
  at: string
  visual: Extract<Visual, { type: 'item-colour' | 'preview' }>
  item: Item
}

/** A visual that every item brings: where it is in the item, and what form it has. */
export function OfItem({ at, visual, item }: OfItemProps) {
  const [typed, setTyped] = useState<string | null>(null)
  const commit = () => {
    if (typed !== null && typed !== visual.at) set(`${at}/at`, typed)
    setTyped(null)
  }
  const text = textAt(item, visual.at)
  return (
    <>
      <label className="tt-field">
        <span>Stands at</span>
        <FormControl
          size="sm"
          aria-label="Where it is in the item"
          spellCheck={false}
          value={typed ?? visual.at}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={commit}
          onKeyDown={(event) => event.key === 'Enter' && commit()}
        />
      </label>
      {visual.type === 'preview' && (
        <div className="tt-swatches" role="group" aria-label="Form of the preview">
          {forms.map(([as, name, explain]) => (
            <Chip key={as} aria-pressed={visual.as === as} data-explain={explain} onClick={() => set(`${at}/as`, as)}>
              {name}
            </Chip>
          ))}
        </div>
      )}
      {text === null && <p className="tt-saving">The sample item has no text at {visual.at}.</p>}
      {visual.type === 'preview' && visual.as !== 'data' && text !== null && <Cost as={visual.as} text={text} />}
    </>
  )
}

/** What the preview costs: its characters in the feed, and the time to draw it. */
function Cost({ as, text }: { as: 'blurhash' | 'thumbhash'; text: string }) {
  const { data } = useSWRImmutable(['preview', as, text], () => drawPreview(as, text))
  if (data === undefined) return null
  return (
    <p className={data ? 'tt-quiet' : 'tt-saving'} role="status">
      {data
        ? `${text.length} characters in the feed; its pixels took ${data.ms.toFixed(1)} ms, off the main thread.`
        : `What is there is not a ${as}.`}
    </p>
  )
}
