import { isAnswered, isShown, type Facts } from '../profile/facts/facts.ts'
import { percentile } from '../profile/figures/numbers.ts'
import type { Costs, Device, NetworkSettings } from '../project/types.ts'

/** The fewest decodes from which a line is drawn through them. */
const fewestDecodes = 6

/**
 * A device with the costs that a live run has shown, at speed 1: what a frame costs by itself, what each cell, bind and
 * upload adds, how much later than the link alone explains the first bytes come, and a straight line through the
 * decodes. What the run does not show stays as the project has it.
 */
export function calibrated(device: Device, facts: Facts, network: Pick<NetworkSettings, 'rttMs' | 'thinkMs'>): Device {
  const { frames, cells, binds } = facts
  const total = (cause: string) => frames.reduce((sum, frame) => sum + (frame.causes.get(cause) ?? 0), 0) / 1000
  const plain = frames.map((frame) => (frame.causes.get('frame') ?? 0) / 1000).sort((a, b) => a - b)
  const uploads = facts.exposures.filter(isShown).length
  const decode = decodeLine(facts)
  const answers = facts.transfers
    .filter(isAnswered)
    .filter(({ end }) => end === 'complete')
    .map(({ startT, firstByteT }) => (firstByteT - startT) / 1000)
    .sort((a, b) => a - b)
  const answered = percentile(answers, 0.5)
  const costs: Costs = {
    ...device.costs,
    frameMs: percentile(plain, 0.5) ?? device.costs.frameMs,
    createMs: cells.length > 0 ? total('create') / cells.length : device.costs.createMs,
    bindMs: binds > 0 ? total('bind') / binds : device.costs.bindMs,
    uploadMs: uploads > 0 ? total('upload') / uploads : device.costs.uploadMs,
    uploadNsPerPx: uploads > 0 ? 0 : device.costs.uploadNsPerPx,
    fetchMs: answered === null ? device.costs.fetchMs : Math.max(0, answered - network.rttMs - network.thinkMs),
    // The page's own masks, layout and collector cannot be distinguished: they are in the frame's own cost.
    maskMs: 0,
    layoutMs: 0,
    gcPauseMs: 0,
    setupMs: 0,
    ...(decode
      ? {
          decodeMs: decode.ms,
          reducedFactor: 1,
          decodeNsPerPx: { jpeg: decode.nsPerPx, png: decode.nsPerPx, webp: decode.nsPerPx, avif: decode.nsPerPx },
        }
      : {}),
  }
  return { ...device, speed: 1, refreshHz: facts.log.head.refreshHz, costs }
}

/**
 * A line through the times of decodes, from being sent to a worker to being back, over their source px: the slope by
 * least squares, then the median of the residuals; never negative.
 */
function decodeLine({ decodes, log }: Facts): { ms: number; nsPerPx: number } | null {
  const points = decodes
    .filter(({ ok }) => ok)
    .map(({ rendition, startT, endT }) => {
      const { sourceWidth, sourceHeight } = log.assets[log.renditions[rendition]!.asset]!
      return { px: sourceWidth * sourceHeight, us: endT - startT }
    })
  if (points.length < fewestDecodes) return null
  const mean = (values: number[]) => values.reduce((sum, value) => sum + value, 0) / values.length
  const px = mean(points.map((each) => each.px))
  const us = mean(points.map((each) => each.us))
  const spread = points.reduce((sum, each) => sum + (each.px - px) * (each.px - px), 0)
  const slope =
    spread === 0 ? 0 : Math.max(0, points.reduce((sum, each) => sum + (each.px - px) * (each.us - us), 0) / spread)
  // A few that the machine held up do not represent the rest.
  const rest = points.map((each) => each.us - slope * each.px).sort((a, b) => a - b)
  const intercept = Math.max(0, percentile(rest, 0.5)!)
  return { ms: intercept / 1000, nsPerPx: slope * 1000 }
}
