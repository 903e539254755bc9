import type { Facts } from '../profile/facts.ts'
import { percentile } from '../profile/numbers.ts'
import type { Costs, Device } from '../project/types.ts'

/** The fewest decodes from which a line is drawn through them. */
const fewestDecodes = 6

/**
 * A device whose costs are those that a live run has shown, at speed 1: what a frame costs by itself, what each cell,
 * bind and upload adds, and a straight line through the decodes. What the run cannot tell stays as the project has it.
 */
export function calibrated(device: Device, facts: Facts): Device {
  const { frames, cells, binds } = facts
  const total = (cause: string) => frames.reduce((sum, frame) => sum + (frame.causes.get(cause) ?? 0), 0) / 1000
  const plain = frames.map((frame) => (frame.causes.get('frame') ?? 0) / 1000).sort((a, b) => a - b)
  const uploads = facts.exposures.filter((each) => each.shownT >= 0).length
  const decode = decodeLine(facts)
  const costs: Costs = {
    ...device.costs,
    frameMs: percentile(plain, 0.5) ?? device.costs.frameMs,
    createMs: cells.length > 0 ? total('create') / cells.length : device.costs.createMs,
    bindMs: binds > 0 ? total('bind') / binds : device.costs.bindMs,
    uploadMs: uploads > 0 ? total('upload') / uploads : device.costs.uploadMs,
    uploadNsPerPx: uploads > 0 ? 0 : device.costs.uploadNsPerPx,
    // The page's own masks, layout and collector are not seen apart: they are in the frame's own cost.
    maskMs: 0, layoutMs: 0, gcPauseMs: 0, setupMs: 0,
    ...(decode ? { decodeMs: decode.ms, reducedFactor: 1, decodeNsPerPx: { jpeg: decode.nsPerPx, png: decode.nsPerPx, webp: decode.nsPerPx, avif: decode.nsPerPx } } : {}),
  }
  return { ...device, speed: 1, refreshHz: facts.log.head.refreshHz, costs }
}

/** Least squares of the decodes' times over their source px; never a negative part. */
function decodeLine({ decodes, log }: Facts): { ms: number; nsPerPx: number } | null {
  const points = decodes.filter(({ ok }) => ok).map(({ rendition, us }) => {
    const { sourceWidth, sourceHeight } = log.assets[log.renditions[rendition]!.asset]!
    return { px: sourceWidth * sourceHeight, us }
  })
  if (points.length < fewestDecodes) return null
  const mean = (values: number[]) => values.reduce((sum, value) => sum + value, 0) / values.length
  const px = mean(points.map((each) => each.px))
  const us = mean(points.map((each) => each.us))
  const spread = points.reduce((sum, each) => sum + (each.px - px) * (each.px - px), 0)
  const slope = spread === 0 ? 0 : Math.max(0, points.reduce((sum, each) => sum + (each.px - px) * (each.us - us), 0) / spread)
  const intercept = Math.max(0, us - slope * px)
  return { ms: intercept / 1000, nsPerPx: slope * 1000 }
}
