import type { StageName } from '../../../core/project/types.ts'
import type { LoadTrack } from '../../../workers/jobs/track-job.ts'

/** What a slot shows at one moment of a load. */
export interface Moment {
  stage: StageName
  /** Share of the bytes received, while arriving. */
  share: number
  /** ms since the transition began; null: the picture is not there yet, or the transition is over. */
  arrivedMs: number | null
}

/** A moment in figures, where its stage's name is not enough; null: it is. */
export function momentWord({ stage, share, arrivedMs }: Moment): string | null {
  if (stage === 'arriving') return `${Math.round(share * 100)} %`
  return arrivedMs === null ? null : `${Math.round(arrivedMs)} ms in`
}

/** What the slot shows so many ms into a load. */
export function momentAt(track: LoadTrack, ms: number): Moment {
  if (track.end === 'absent') return { stage: 'absent', share: 0, arrivedMs: null }
  const part = track.parts.find(({ fromMs, toMs }) => ms >= fromMs && ms < toMs) ?? track.parts.at(-1)!
  switch (part.what) {
    case 'in line':
    case 'on the way':
      return { stage: 'waiting', share: 0, arrivedMs: null }
    case 'receiving':
      return { stage: 'arriving', share: (ms - part.fromMs) / (part.toMs - part.fromMs), arrivedMs: null }
    case 'decoding':
    case 'waiting for a frame':
      return { stage: 'arriving', share: 1, arrivedMs: null }
    case 'arriving':
      return { stage: 'settled', share: 1, arrivedMs: ms - part.fromMs }
    case 'settled':
      return { stage: track.end === 'failed' ? 'failed' : 'settled', share: 1, arrivedMs: null }
  }
}
