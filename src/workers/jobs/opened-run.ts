import { decodeLog, type EncodedLog } from '../../core/log/log-encoding.ts'
import { profileRun, type Profile } from '../../core/profile/profile.ts'

export interface StoredRun {
  log: EncodedLog
  hash: string
}

let opened: { hash: string; profile: Profile } | null = null

/** The profile of a kept run; the last one is cached, since one question about a run is followed by the next. */
export function openedRun({ hash, log }: StoredRun): Profile {
  if (opened?.hash !== hash) opened = { hash, profile: profileRun(decodeLog(log)) }
  return opened.profile
}
