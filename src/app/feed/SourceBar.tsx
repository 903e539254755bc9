import FormControl from 'react-bootstrap/FormControl'
import { useRef, useState } from 'react'
import Alert from 'react-bootstrap/Alert'
import Button from 'react-bootstrap/Button'
import { useGo } from '../shell/address.ts'
import { FilePicker } from '../controls/FilePicker.tsx'
import { openAnyFile } from '../shell/open-any-file.ts'
import { Progress } from '../controls/Progress.tsx'
import type { Screen } from '../../core/project/types.ts'
import { bindAsProposed, cancelOpening, openAddress, openPictures, openText, putAway, useOpening } from './open-feed.ts'

/** Where the feed comes from, and the ways to open another. */
export function SourceBar({ screen }: { screen: Screen }) {
  const picker = useRef<HTMLInputElement>(null)
  const pictures = useRef<HTMLInputElement>(null)
  const gallery = useRef<HTMLInputElement>(null)
  const [typing, setTyping] = useState<'paste' | 'address' | null>(null)
  const [text, setText] = useState('')
  const opening = useOpening()
  const go = useGo()
  const read = (open: (text: string) => Promise<void>) => {
    void open(text.trim())
    setTyping(null)
  }
  return (
    <div className="tt-source">
      <div className="tt-source-line">
        <span className="tt-chip" tabIndex={0} data-explain="Where this screen’s items come from">
          {sourceName(screen)}
        </span>
        <Button size="sm" variant="outline-primary" onClick={() => picker.current?.click()}>
          Open a file…
        </Button>
        <Button
          size="sm"
          variant="outline-primary"
          aria-expanded={typing === 'paste'}
          onClick={() => setTyping(typing === 'paste' ? null : 'paste')}
        >
          Paste…
        </Button>
        <Button
          size="sm"
          variant="outline-primary"
          aria-expanded={typing === 'address'}
          onClick={() => setTyping(typing === 'address' ? null : 'address')}
        >
          Address…
        </Button>
        <Button
          size="sm"
          variant="outline-primary"
          data-explain="Pictures and videos on this machine; they stay in this browser and need no network"
          onClick={() => pictures.current?.click()}
        >
          Pictures…
        </Button>
        <Button
          size="sm"
          variant="outline-primary"
          data-explain="A whole folder of pictures, such as a gallery; they stay in this browser and need no network"
          onClick={() => gallery.current?.click()}
        >
          Gallery…
        </Button>
        <span className="tt-quiet" tabIndex={0} data-explain="A feed as JSON or CSV, up to 50 MB">
          or drop a file here
        </span>
        <FilePicker
          ref={pictures}
          label="Pictures"
          accept="image/*,video/*"
          multiple
          onFiles={(files) => void openPictures(files)}
        />
        <FilePicker ref={takeFolders(gallery)} label="Gallery" multiple onFiles={(files) => void openPictures(files)} />
        <FilePicker
          ref={picker}
          label="Feed file"
          accept=".json,.csv,.tsv,.txt,application/json,text/csv"
          onFiles={([file]) => void openAnyFile(file!, go)}
        />
      </div>
      {typing === 'paste' && (
        <div className="tt-source-line">
          <FormControl
            as="textarea"
            size="sm"
            aria-label="Feed text"
            rows={4}
            placeholder="JSON, CSV, or addresses, one per line"
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
          <Button size="sm" onClick={() => read(openText)} disabled={text.trim() === ''}>
            Read it
          </Button>
        </div>
      )}
      {typing === 'address' && (
        <form
          className="tt-source-line"
          onSubmit={(event) => {
            event.preventDefault()
            read(openAddress)
          }}
        >
          <FormControl
            size="sm"
            type="url"
            aria-label="Feed address"
            required
            placeholder="https://… a feed, or one picture"
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
          <Button size="sm" type="submit">
            Fetch it
          </Button>
          <span className="tt-quiet">through the relay: only hosts named when the server was started</span>
        </form>
      )}
      {opening.what !== null && (
        <div className="tt-source-line" role="status">
          <span>
            Opening {opening.what}
            {opening.pages > 1 ? `, page ${opening.pages}` : ''}
          </span>
          <Progress name="Opening the feed" share={opening.share} />
          <Button size="sm" variant="outline-secondary" onClick={cancelOpening}>
            Cancel
          </Button>
        </div>
      )}
      {opening.message && (
        <Alert variant={opening.message.wrong ? 'danger' : 'info'} dismissible onClose={putAway} className="tt-notice">
          {opening.message.text}
          {opening.proposed && (
            <>
              {' '}
              Its values look like {opening.proposed.words}.{' '}
              <Button size="sm" onClick={bindAsProposed}>
                Bind them
              </Button>
            </>
          )}
        </Alert>
      )}
    </div>
  )
}

/** Lets a file input take a whole folder, which React has no word for. */
const takeFolders = (ref: { current: HTMLInputElement | null }) => (input: HTMLInputElement | null) => {
  ref.current = input
  if (input) input.webkitdirectory = true
}

function sourceName(screen: Screen): string {
  const { source } = screen.feed
  switch (source.type) {
    case 'inline':
      return 'kept in the project'
    case 'file':
      return source.name
    case 'url':
      return source.url
    case 'origin':
      return source.feed === 'folder' ? 'your folder' : `the archive’s “${source.feed}”`
  }
}
