import FormControl from 'react-bootstrap/FormControl'
import { useState } from 'react'
import Button from 'react-bootstrap/Button'
import { currentPlayed } from '../playback/playback-store.ts'
import type { StoredLog, StoredRun } from '../store/database.ts'
import { keepNotes } from '../store/run-store.ts'
import { useAnswer } from './use-answer.ts'
import { TextButton } from '../controls/TextButton.tsx'

const mostMarks = 200

/** Marks made while the run was driven, and later notes; each sets the cursor to its moment. */
export function NotesLens({
  run,
  kept,
  onMoment,
}: {
  run: StoredRun
  kept: StoredLog
  onMoment: (ms: number) => void
}) {
  const [text, setText] = useState('')
  const notes = run.notes ?? []
  const { answer } = useAnswer('events', run.hash, ['marks'], () => ({
    log: kept.log,
    hash: run.hash,
    query: { kinds: ['note'], text: '' },
    most: mostMarks,
    from: 0,
  }))
  const at = () => (currentPlayed()?.run === run.id ? currentPlayed()!.ms : 0)
  const add = () => {
    if (text.trim() === '') return
    void keepNotes(
      run.id,
      [...notes, { ms: at(), text: text.trim() }].sort((one, other) => one.ms - other.ms),
    )
    setText('')
  }
  return (
    <section className="tt-card tt-lens-view" aria-label="Notes" tabIndex={0}>
      <form
        className="tt-source-line"
        onSubmit={(event) => {
          event.preventDefault()
          add()
        }}
      >
        <FormControl
          size="sm"
          aria-label="A note at the cursor"
          placeholder="a note at the cursor’s moment"
          maxLength={500}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <Button size="sm" type="submit" variant="outline-primary" disabled={text.trim() === ''}>
          Note it
        </Button>
      </form>
      <ul className="tt-notes">
        {answer?.events.map(({ t, text: mark }, i) => (
          <li key={`mark ${i}`}>
            <TextButton onClick={() => onMoment(t)}>{(t / 1000).toFixed(2)} s</TextButton> {String(mark)}{' '}
            <small className="tt-quiet">marked on the device</small>
          </li>
        ))}
        {notes.map(({ ms, text: note }, i) => (
          <li key={`note ${i}`}>
            <TextButton onClick={() => onMoment(ms)}>{(ms / 1000).toFixed(2)} s</TextButton> {note}
            <TextButton
              aria-label={`Remove the note “${note}”`}
              onClick={() =>
                void keepNotes(
                  run.id,
                  notes.filter((_, n) => n !== i),
                )
              }
            >
              ✕
            </TextButton>
          </li>
        ))}
      </ul>
      {notes.length === 0 && answer?.matching === 0 && (
        <p className="tt-quiet">
          There are no notes yet. The key M marks a moment while a drive runs; here a note goes where the cursor is.
          Notes are kept with the run and exported with it.
        </p>
      )}
    </section>
  )
}
