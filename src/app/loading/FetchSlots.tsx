import { useEffect, useState } from 'react'
import Button from 'react-bootstrap/Button'
import { currentRun } from '../shell/device-store.ts'

interface SlotNow {
  row: number
  class: number
  received: number
  total: number | null
}

/** How often the live slots are looked at, ms. */
const lookMs = 120
const classNames = ['on screen', 'coming up', 'just left', 'nobody’s'] as const

/** The fetch slots as they are filled on the live device now; taken away and added by hand. */
export function FetchSlots({ slots, keepAbove, onChange }: { slots: number; keepAbove: number; onChange: (slots: number) => void }) {
  const [{ running: now, waiting }, setNow] = useState<{ running: SlotNow[]; waiting: string[] }>({ running: [], waiting: [] })
  useEffect(() => {
    const timer = setInterval(() => setNow(lookAtSlots()), lookMs)
    return () => clearInterval(timer)
  }, [])
  const shown = Math.min(slots, 12)
  return (
    <div className="tt-slots">
      <ol aria-label={`${slots} fetch slots, ${now.length} in use`}>
        {Array.from({ length: shown }, (_, i) => {
          const slot = now[i]
          const share = slot?.total ? slot.received / slot.total : slot ? 0.03 : 0
          return (
            <li key={i} data-class={slot?.class}>
              <span className="tt-slot-fill" style={{ width: `${share * 100}%` }} />
              {slot && keepAbove < 1 && <span className="tt-slot-notch" style={{ left: `${keepAbove * 100}%` }} title={`From ${Math.round(keepAbove * 100)} % on it is finished, not cut off`} />}
              <span className="tt-slot-word">{slot ? `row ${slot.row} · ${classNames[slot.class] ?? ''}` : 'free'}</span>
            </li>
          )
        })}
      </ol>
      <p className="tt-in-line" aria-live="off">{waiting.length === 0 ? 'Nothing is in line on the device.' : `In line: ${waiting.slice(0, 6).join(', ')}${waiting.length > 6 ? ` and ${waiting.length - 6} more` : ''}`}</p>
      <div className="tt-slot-buttons">
        <Button size="sm" variant="outline-primary" aria-label="Take a fetch slot away" disabled={slots <= 1} onClick={() => onChange(slots - 1)}>−</Button>
        <Button size="sm" variant="outline-primary" aria-label="Add a fetch slot" disabled={slots >= 64} onClick={() => onChange(slots + 1)}>+</Button>
        {slots > shown && <span className="tt-quiet">and {slots - shown} more</span>}
      </div>
    </div>
  )
}

function lookAtSlots(): { running: SlotNow[]; waiting: string[] } {
  const live = currentRun()
  if (!live) return { running: [], waiting: [] }
  const all = [...live.run.loader.live]
  const waiting = all.filter((request) => request.state === 'queued').sort((one, other) => one.class - other.class || one.id - other.id)
  const running = all
    .filter((request) => request.transfer >= 0)
    .map((request) => ({
      row: request.claims[0]?.row ?? -1, class: request.class, total: request.total, received: live.received(request.transfer),
    }))
  return { running, waiting: waiting.map((request) => `row ${request.claims[0]?.row ?? '–'}`) }
}
