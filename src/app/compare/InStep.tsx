import FormRange from 'react-bootstrap/FormRange'
import FormSelect from 'react-bootstrap/FormSelect'
import { useEffect, useState } from 'react'
import PlayedDevice from '../playback/PlayedDevice.tsx'
import type { StoredLog, StoredRun } from '../store/database.ts'
import { Chip } from '../controls/Chip.tsx'

export interface OpenedRun {
  run: StoredRun
  kept: StoredLog
  letter: string
}

const speeds = [0.25, 0.5, 1, 2] as const

/** The devices of several runs side by side, played in step: the same moment of the same drive on each. */
export function InStep({ runs, ms, onMs }: { runs: readonly OpenedRun[]; ms: number; onMs: (ms: number) => void }) {
  const [playing, setPlaying] = useState(false)
  const [speed, setSpeed] = useState(1)
  const endMs = Math.max(...runs.map(({ kept }) => kept.map.endMs))
  useEffect(() => {
    if (!playing) return
    let handle = 0
    let last: number | null = null
    let at = ms
    const step = (now: number) => {
      at = Math.min(endMs, at + (last === null ? 0 : (now - last) * speed))
      last = now
      onMs(at)
      if (at < endMs) handle = requestAnimationFrame(step)
      else setPlaying(false)
    }
    handle = requestAnimationFrame(step)
    return () => cancelAnimationFrame(handle)
    // It goes on from where it was when it began; the moments in between are its own.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [playing, speed, endMs])
  const scale = runs.length <= 2 ? 0.28 : 0.17
  return (
    <section className="tt-in-step" aria-label="The devices in step">
      <div className="tt-devices" data-many={runs.length > 2 ? '' : undefined}>
        {runs.map(({ run, kept, letter }) => (
          <figure key={run.id}>
            <PlayedDevice run={run} kept={kept} ms={Math.min(kept.map.endMs, ms)} scale={scale} />
            <figcaption>
              {letter} · run {run.number}
            </figcaption>
          </figure>
        ))}
      </div>
      <div className="tt-player" role="group" aria-label="Playback in step">
        <Chip
          onClick={() => {
            if (!playing && ms >= endMs) onMs(0)
            setPlaying(!playing)
          }}
        >
          {playing ? '❚❚' : '▶'}
          <span className="visually-hidden">{playing ? ' stand' : ' play in step'}</span>
        </Chip>
        <FormRange
          aria-label="Moment of the runs, ms"
          min={0}
          max={Math.ceil(endMs)}
          value={Math.round(ms)}
          onChange={(event) => {
            setPlaying(false)
            onMs(Number(event.target.value))
          }}
        />
        <FormSelect
          size="sm"
          aria-label="Speed of the playback"
          value={speed}
          onChange={(event) => setSpeed(Number(event.target.value))}
        >
          {speeds.map((each) => (
            <option key={each} value={each}>
              {each}×
            </option>
          ))}
        </FormSelect>
      </div>
    </section>
  )
}
