import { parseProject } from '../../src/core/project/parse.ts'
import type { Project } from '../../src/core/project/types.ts'

type Json = Record<string, unknown>

/** A list of square pictures on a host that nobody resizes for: each of so many bytes. */
export function items(count: number, bytes = 20_000, px = 300): Json[] {
  return Array.from({ length: count }, (_, i) => ({
    id: `i${i}`,
    photo: `https://pictures.example.test/${i}.jpg`,
    width: px,
    height: px,
    bytes,
  }))
}

/** A project from its parts; throws with the parser's own message. */
export function projectOf(parts: {
  items?: Json[]
  screen?: Json
  slot?: Json
  height?: Json
  loading?: Json
  device?: Json
  network?: Json
  steps?: Json[]
  seed?: number
}): Project {
  const outcome = parseProject({
    format: 'tile-tug/project',
    version: 1,
    name: 'test',
    seed: parts.seed ?? 1,
    screens: [
      {
        id: 'list',
        feed: { source: { type: 'inline', items: parts.items ?? items(60) } },
        layout: { columns: 1, gapDp: 0, paddingDp: 0 },
        cells: [
          {
            height: parts.height ?? { type: 'fixed', dp: 100 },
            slots: [
              { size: { type: 'fixed', widthDp: 100, heightDp: 100 }, transition: { type: 'none' }, ...parts.slot },
            ],
          },
        ],
        ...parts.screen,
      },
    ],
    loading: parts.loading ?? {},
    device: { widthDp: 100, heightDp: 500, density: 1, ...parts.device },
    network: parts.network ?? {},
    scripts: [{ name: 'script', steps: parts.steps ?? [{ do: 'wait', ms: 1000 }] }],
  })
  if (!outcome.ok) throw new Error(outcome.message)
  return outcome.project
}

/** A link without surprises: no set-up, no jitter, no slow start. */
export const plainLink = {
  rttMs: 100,
  jitterMs: 0,
  thinkMs: 0,
  setupRtts: 0,
  slowStart: false,
  downKbps: 8000,
  protocol: 'h2',
}

/** A device on which nothing costs anything. */
export const freeDevice = {
  costs: {
    frameMs: 0,
    createMs: 0,
    bindMs: 0,
    uploadMs: 0,
    uploadNsPerPx: 0,
    decodeMs: 0,
    decodeNsPerPx: { jpeg: 0, png: 0, webp: 0, avif: 0 },
    treatNsPerPx: { grayscale: 0, tint: 0, blur: 0, corners: 0 },
    maskMs: 0,
    layoutMs: 0,
    transitionMs: 0,
    setupMs: 0,
    diskMs: 0,
    gcPauseMs: 0,
    gcThresholdMb: 1000,
  },
}
