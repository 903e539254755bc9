import { noReadings, type Readings } from '../../core/evidence/readings-source.ts'
import FormControl from 'react-bootstrap/FormControl'
import { useState } from 'react'
import { setReadings, useEvidence } from './evidence-store.ts'

const names: Record<keyof Readings, string> = {
  memoryStart: 'memory at the start',
  memoryPeak: 'memory at its peak',
  memoryAfterCollection: 'memory after a collection',
  storageBefore: 'storage before',
  storageAfter: 'storage after',
}

/** Single readings from the phone's own tools, typed in. */
export function ReadingFields() {
  const readings = useEvidence(({ readings }) => readings)
  return (
    <details className="tt-card tt-readings">
      <summary>Readings, typed in</summary>
      <div className="tt-source-line">
        {(Object.keys(noReadings) as (keyof Readings)[]).map((name) => (
          <Reading key={name} name={name} value={readings[name]} />
        ))}
      </div>
    </details>
  )
}

function Reading({ name, value }: { name: keyof Readings; value: number | null }) {
  const [text, setText] = useState(value === null ? '' : String(value))
  const number = text.trim() === '' ? null : Number(text.replace(',', '.'))
  const isWrong = number !== null && !(number >= 0 && number <= 1e6)
  return (
    <label className="tt-field">
      {names[name]}, MB
      <FormControl
        size="sm"
        inputMode="decimal"
        isInvalid={isWrong}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => {
          if (!isWrong && number !== value) void setReadings({ [name]: number })
        }}
      />
      {isWrong && <span role="alert">a number from 0 to 1,000,000</span>}
    </label>
  )
}
