/** What the sources of a recorded run can show, each with what an app has to record for it. */
export const observations = {
  frames: 'frame timings: a table of them, or frame events',
  work: 'the work of each frame: a column work, or workMs of frame events',
  scroll: 'scroll events',
  binds: 'bind events with the address that each cell was given',
  shows: 'show events',
  requests: 'the requests: a HAR file, a recording through the bench, or start, received, cancel and fail events',
  wants: 'want or bind events',
  tiers: 'deliver or show events with the tier that each picture came from',
  decodes: 'decode events',
  creates: 'create events',
  memory: 'memory readings',
  collected: 'a reading of memory after a collection, typed in',
  storage: 'readings of storage before and after, typed in',
  mainBusy: 'the work of each frame, or busy stretches of the main thread',
  decodeBusy: 'busy stretches of the decode threads',
  own: 'nothing that an app records: only a run of the bench itself knows it',
} as const
export type Observation = keyof typeof observations

/** Whether a run has observed something: every run has, except those recorded from an app. */
export function isObserved(head: { observed?: readonly Observation[] }, what: Observation): boolean {
  return head.observed?.includes(what) ?? true
}
