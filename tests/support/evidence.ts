import { EventsSource } from '../../src/core/evidence/events-source.ts'
import type { SourceReader, Source } from '../../src/core/evidence/evidence.ts'
import { HarSource } from '../../src/core/evidence/har-source.ts'
import type { RunLog } from '../../src/core/log/run-log.ts'
import { profileRun, type Profile } from '../../src/core/profile/profile.ts'
import { appEventsOf } from '../../src/core/profile/views/app-events.ts'
import { harOf } from '../../src/core/profile/views/har.ts'
import { parseProject } from '../../src/core/project/parse.ts'
import type { Step } from '../../src/core/project/types.ts'

/** Rows that their picture fills: what an app can report of a row is then all that there is to know of its slot. */
const filledRows = {
  format: 'tile-tug/project',
  version: 1,
  name: 'Round trip',
  screens: [
    {
      id: 'wall',
      feed: { source: { type: 'origin', feed: 'wall' } },
      layout: { columns: 1, gapDp: 0, paddingDp: 0 },
      cells: [
        {
          height: { type: 'fixed', dp: 220 },
          slots: [
            {
              id: 'main',
              address: { type: 'template', template: '{+photo}?width={widthPx}&as=webp' },
              size: { type: 'fill' },
            },
          ],
        },
      ],
    },
  ],
}

export function filledProject(more: object) {
  const parsed = parseProject({ ...filledRows, ...more })
  if (!parsed.ok) throw new Error(parsed.message)
  return parsed
}

/** Gives a text to a reader in pieces that end anywhere. */
export function readAll(reader: SourceReader, text: string, length = 997): Source {
  for (let at = 0; at < text.length; at += length) reader.push(text.slice(at, at + length))
  return reader.finish()
}

export const harText = ({ facts }: Profile) => JSON.stringify(harOf(facts, { name: 'test', version: '1' }), null, 1)
export const eventsText = (log: RunLog) => [...appEventsOf(log)].join('')

export const readHar = (text: string, feed: ReadonlySet<string> = new Set()) =>
  readAll(new HarSource('run.har', feed), text)
export const readEvents = (text: string) => readAll(new EventsSource('run.ndjson'), text)

export { profileRun }

/** Where a script of waits and drags has the list at an instant, dp. */
export function topOf(steps: readonly Step[], ms: number): number {
  let at = 0
  let top = 0
  for (const step of steps) {
    if (step.do !== 'wait' && step.do !== 'drag') throw new Error(`a recovered gesture has no ${step.do}`)
    const part = step.ms === 0 ? 1 : Math.min(1, Math.max(0, (ms - at) / step.ms))
    if (step.do === 'drag') top += step.dp * part
    at += step.ms
    if (at > ms) break
  }
  return top
}
