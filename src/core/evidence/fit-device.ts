import type { Facts } from '../profile/facts/facts.ts'
import { percentile } from '../profile/figures/numbers.ts'
import { isObserved } from '../log/observed.ts'
import type { Costs, Device } from '../project/types.ts'
import { fitted, type Fitted, type Kept } from './fit-network.ts'

const fewest = 5
const fine = (value: number) => Math.round(value * 1000) / 1000
const ascending = (values: readonly number[]) => values.toSorted((one, other) => one - other)

/** A device with the frames, cells and decodes that a run shows; what they do not show stays as it is in `base`. */
export function fitDevice(facts: Facts, base: Device): { device: Device; fitted: Fitted[]; kept: Kept[] } {
  const { head } = facts.log
  const found: Fitted[] = []
  const kept: Kept[] = []
  const costs: Costs = { ...base.costs }
  const device: Device = { ...base, name: 'Recorded', speed: 1, costs }
  const keep = (path: string, why: string) => kept.push({ path: `/device/${path}`, why })
  if (isObserved(head, 'frames')) {
    device.refreshHz = head.refreshHz
    const gaps = facts.frames.slice(1).map((frame, i) => (frame.presented - facts.frames[i]!.presented) / 1000)
    found.push(
      fitted(
        '/device/refreshHz',
        gaps.filter((gap) => gap > 0 && gap < 100).map((gap) => 1000 / gap),
        head.refreshHz,
      ),
    )
  } else keep('refreshHz', 'no frames were recorded')
  fitFrames(facts, costs, found, keep)
  fitDecodes(facts, costs, found, keep)
  return { device, fitted: found, kept }
}

/** What a frame costs by itself, and what each create and bind in it adds: the medians, one after the other. */
function fitFrames(facts: Facts, costs: Costs, found: Fitted[], keep: (path: string, why: string) => void): void {
  if (!isObserved(facts.log.head, 'work')) {
    keep('costs/frameMs', 'no work of frames was recorded')
    keep('costs/createMs', 'no work of frames was recorded')
    keep('costs/bindMs', 'no work of frames was recorded')
    return
  }
  const frames = facts.frames.map((frame) => ({ ...frame, creates: 0, binds: 0 }))
  const frameOf = (t: number) => {
    let low = 0
    let high = frames.length
    while (low < high) {
      const middle = (low + high) >> 1
      if (frames[middle]!.begin <= t) low = middle + 1
      else high = middle
    }
    const frame = frames[low - 1]
    return frame && t <= frame.presented ? frame : undefined
  }
  for (const { createT } of facts.cells) {
    const frame = frameOf(createT)
    if (frame) frame.creates++
  }
  for (const t of facts.bindTimes) {
    const frame = frameOf(t)
    if (frame) frame.binds++
  }
  const median = (values: readonly number[]) => percentile(ascending(values), 0.5)
  const plain = frames.filter(({ binds, creates }) => binds === 0 && creates === 0).map(({ work }) => work / 1000)
  const frameMs = median(plain)
  if (frameMs === null || plain.length < fewest)
    keep('costs/frameMs', `${plain.length} frames bind nothing; ${fewest} are needed`)
  else {
    costs.frameMs = fine(frameMs)
    found.push(fitted('/device/costs/frameMs', plain, costs.frameMs))
  }
  const bindOnly = frames
    .filter(({ binds, creates }) => binds > 0 && creates === 0)
    .map(({ work, binds }) => Math.max(0, (work / 1000 - costs.frameMs) / binds))
  const bindMs = median(bindOnly)
  if (bindMs === null || bindOnly.length < fewest || !isObserved(facts.log.head, 'binds'))
    keep('costs/bindMs', `${bindOnly.length} frames bind cells and make none; ${fewest} are needed`)
  else {
    costs.bindMs = fine(bindMs)
    found.push(fitted('/device/costs/bindMs', bindOnly, costs.bindMs))
  }
  const made = frames
    .filter(({ creates }) => creates > 0)
    .map(({ work, binds, creates }) => Math.max(0, (work / 1000 - costs.frameMs - binds * costs.bindMs) / creates))
  const createMs = median(made)
  if (createMs === null || !isObserved(facts.log.head, 'creates'))
    keep('costs/createMs', 'no frame in which cells were made was recorded')
  else {
    costs.createMs = fine(createMs)
    found.push(fitted('/device/costs/createMs', made, costs.createMs))
  }
}

/** A decode by its px: the slope through the decodes, then the median of the residuals. */
function fitDecodes(facts: Facts, costs: Costs, found: Fitted[], keep: (path: string, why: string) => void): void {
  const points = facts.decodes
    .map(({ rendition, us }) => {
      const { width, height } = facts.log.renditions[rendition]!
      return { px: width * height, us }
    })
    .filter(({ px }) => px > 0)
  if (points.length < fewest) {
    keep('costs/decodeMs', `${points.length} decodes have a size and a time; ${fewest} are needed`)
    return
  }
  const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length
  const px = mean(points.map((each) => each.px))
  const us = mean(points.map((each) => each.us))
  const spread = points.reduce((sum, each) => sum + (each.px - px) * (each.px - px), 0)
  const slope =
    spread === 0
      ? Math.max(0, us - costs.decodeMs * 1000) / px
      : Math.max(0, points.reduce((sum, each) => sum + (each.px - px) * (each.us - us), 0) / spread)
  const rest = points.map((each) => Math.max(0, each.us - slope * each.px) / 1000)
  costs.decodeMs = fine(percentile(ascending(rest), 0.5)!)
  costs.reducedFactor = 1
  const nsPerPx = fine(slope * 1000)
  costs.decodeNsPerPx = { jpeg: nsPerPx, png: nsPerPx, webp: nsPerPx, avif: nsPerPx }
  found.push(fitted('/device/costs/decodeMs', rest, costs.decodeMs))
  found.push(
    fitted(
      '/device/costs/decodeNsPerPx',
      // The residual of each decode when its own cost is subtracted.
      points.map((each) => (Math.max(0, each.us - 1000 * costs.decodeMs) * 1000) / each.px),
      nsPerPx,
    ),
  )
}
