import { emptySource, type Source } from './evidence.ts'

/** Single readings that someone typed in, MB; null: not read. */
export interface Readings {
  memoryStart: number | null
  memoryPeak: number | null
  memoryAfterCollection: number | null
  storageBefore: number | null
  storageAfter: number | null
}

export const noReadings: Readings = {
  memoryStart: null,
  memoryPeak: null,
  memoryAfterCollection: null,
  storageBefore: null,
  storageAfter: null,
}

/** Readings as a source of their own, which has no instants: they are at the start of the run; null: there are none. */
export function readingsSource(readings: Readings): Source | null {
  const { memoryStart, memoryPeak, memoryAfterCollection, storageBefore, storageAfter } = readings
  const source = emptySource('typed in', 'readings')
  const at = (order: number) => order / 1000
  if (memoryStart !== null) source.events.push({ t: at(0), event: 'memory', mb: memoryStart })
  if (memoryPeak !== null) source.events.push({ t: at(1), event: 'memory', mb: memoryPeak })
  if (memoryAfterCollection !== null) source.events.push({ t: at(2), event: 'collected', mb: memoryAfterCollection })
  if (storageBefore !== null && storageAfter !== null)
    source.events.push({ t: at(3), event: 'storage', beforeMb: storageBefore, afterMb: storageAfter })
  return source.events.length === 0 ? null : source
}
