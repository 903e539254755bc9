import FormRange from 'react-bootstrap/FormRange'
import FormSelect from 'react-bootstrap/FormSelect'
import { useState } from 'react'
import { Progress } from '../controls/Progress.tsx'
import { saveBlob } from '../store/save-file.ts'
import type { StoredLog, StoredRun } from '../store/database.ts'
import { playAt, setSpeed, stopPlaying, togglePlaying, usePlayed } from './playback-store.ts'
import { Chip } from '../controls/Chip.tsx'

/** One step of the cursor: a frame of an everyday screen, ms. */
const frame = 1000 / 60
const speeds = [0.1, 0.25, 0.5, 1, 2, 4] as const

/** Plays the run on the device: from the cursor, at any speed, frame by frame; a clip of it can be saved. */
export function PlayerBar({ run, kept }: { run: StoredRun; kept: StoredLog }) {
  const played = usePlayed()
  const playing = played?.run === run.id ? played : null
  const [clip, setClip] = useState<{ share: number; leftS: number | null; cancel: () => void } | null>(null)
  const [trouble, setTrouble] = useState<string | null>(null)
  const { endMs } = kept.map
  const at = playing?.ms ?? 0
  const save = async (as: 'png' | 'webm') => {
    const { recordClip } = await import('./record-clip.ts')
    const abort = new AbortController()
    setTrouble(null)
    const begun = performance.now()
    setClip({ share: 0, leftS: null, cancel: () => abort.abort() })
    try {
      const file = await recordClip({
        run,
        kept,
        as,
        fromMs: at < endMs ? at : 0,
        signal: abort.signal,
        progress: (share) =>
          setClip({
            share,
            leftS: share > 0 ? ((performance.now() - begun) * (1 - share)) / share / 1000 : null,
            cancel: () => abort.abort(),
          }),
      })
      saveBlob(`run-${run.number}-clip.${as === 'png' ? 'zip' : 'webm'}`, file)
    } catch (error) {
      if (!abort.signal.aborted) setTrouble(error instanceof Error ? error.message : String(error))
    } finally {
      setClip(null)
    }
  }
  return (
    <div className="tt-player" role="group" aria-label="Playback">
      <Chip
        onClick={() => {
          if (!playing) playAt(run.id, 0, endMs)
          togglePlaying()
        }}
      >
        {playing?.playing ? '❚❚ stand' : '▶ play'}
      </Chip>
      <Chip aria-label="One frame back" data-explain="One frame back" onClick={() => playAt(run.id, at - frame, endMs)}>
        ‹
      </Chip>
      <Chip aria-label="One frame on" data-explain="One frame on" onClick={() => playAt(run.id, at + frame, endMs)}>
        ›
      </Chip>
      <FormRange
        aria-label="Moment of the run, ms"
        min={0}
        max={Math.ceil(endMs)}
        step={1}
        value={Math.round(at)}
        onChange={(event) => playAt(run.id, Number(event.target.value), endMs)}
      />
      <span className="tt-quiet">{(at / 1000).toFixed(3)} s</span>
      <FormSelect
        size="sm"
        aria-label="Speed of the playback"
        value={playing?.speed ?? 1}
        onChange={(event) => {
          if (!playing) playAt(run.id, 0, endMs)
          setSpeed(Number(event.target.value))
        }}
      >
        {speeds.map((speed) => (
          <option key={speed} value={speed}>
            {speed}×
          </option>
        ))}
      </FormSelect>
      {playing && (
        <Chip data-explain="The device shows the live list again" onClick={stopPlaying}>
          back to live
        </Chip>
      )}
      {clip ? (
        <>
          <Progress name="Making the clip" share={clip.share} />
          {clip.leftS !== null && <span className="tt-quiet">{Math.ceil(clip.leftS)} s left</span>}
          <Chip onClick={clip.cancel}>Cancel</Chip>
        </>
      ) : (
        <>
          <Chip data-explain="Up to ten seconds from the cursor on, as a film (WebM)" onClick={() => void save('webm')}>
            clip
          </Chip>
          <Chip
            data-explain="Up to ten seconds from the cursor on, ten pictures a second (PNG, in one zip file)"
            onClick={() => void save('png')}
          >
            pictures
          </Chip>
        </>
      )}
      {trouble && <span role="alert">The clip could not be made: {trouble}</span>}
    </div>
  )
}
