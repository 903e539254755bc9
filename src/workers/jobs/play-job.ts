import { decodeLog, type EncodedLog } from '../../core/log/log-encoding.ts'
import { Playback, type PlayedScreen } from '../../core/profile/views/playback.ts'

/** Runs that are played back, by hash: as many as Compare shows side by side. */
const playing = new Map<string, Playback>()
const mostPlaying = 6

export interface PlayOrder {
  hash: string
  /** null: it was opened before. */
  log: EncodedLog | null
  ms: number
}

export interface Played {
  /** null: the run is not open any more. */
  screen: PlayedScreen | null
  /** Of renditions by number, sent when the run is opened. */
  addresses: string[]
}

/** The screen at a moment of a run. */
export function playJob({ hash, log, ms }: PlayOrder): Played {
  if (!log) return { screen: playing.get(hash)?.screenAt(ms) ?? null, addresses: [] }
  const whole = decodeLog(log)
  playing.delete(hash)
  if (playing.size >= mostPlaying) playing.delete(playing.keys().next().value!)
  const playback = new Playback(whole)
  playing.set(hash, playback)
  return {
    screen: playback.screenAt(ms),
    addresses: whole.renditions.map(({ asset }) => whole.assets[asset]!.address),
  }
}
