import { unitsPerDp } from '../numbers/units.ts'
import type { Facts } from '../profile/facts/facts.ts'
import type { Raw } from '../project/parse.ts'
import { projectFormat, projectVersion } from '../project/project-schema.ts'
import type { Project, Screen } from '../project/types.ts'
import type { FeedAddresses } from './feed-addresses.ts'
import { fitDevice } from './fit-device.ts'
import { fitNetwork, type Fitted, type Kept } from './fit-network.ts'
import { recoverGesture, type Gesture } from './recover-gesture.ts'

export interface FittedWorld {
  /** A project file. */
  raw: Raw
  fitted: Fitted[]
  kept: Kept[]
  gesture: Gesture | null
}

/** What a project is fitted from: a parsed one with its file, and the screen that was recorded. */
export interface FitBase {
  raw: Raw
  project: Project
  screen: Screen
  feed: FeedAddresses
}

/** A project whose network, device and script are those of a recorded run; the rest is as in `base`. */
export function fitWorld(facts: Facts, base: FitBase): FittedWorld {
  const { network, fitted: ofNetwork, kept: keptNetwork } = fitNetwork(facts, base.project.network)
  const { device, fitted: ofDevice, kept: keptDevice } = fitDevice(facts, base.project.device)
  const { head } = facts.log
  device.widthDp = clamp(head.widthDp, 100, 4000)
  device.heightDp = clamp(head.heightDp, 100, 4000)
  const gesture = recoverGesture(facts, base.feed)
  const kept = [...keptNetwork, ...keptDevice]
  if (!gesture)
    kept.push({
      path: '/script',
      why: 'neither scrolls nor binds were recorded, and the addresses are none of the feed',
    })
  const scripts = ((base.raw.scripts as Raw[] | undefined) ?? base.project.scripts).filter(
    (script) => (script as { name?: unknown }).name !== gesture?.script.name,
  )
  return {
    raw: {
      ...base.raw,
      network,
      device,
      ...(gesture ? { scripts: [...scripts, gesture.script], script: gesture.script.name } : {}),
    },
    fitted: [...ofNetwork, ...ofDevice],
    kept,
    gesture,
  }
}

/** A project file for a run of which no project is known: its pictures as a list, in the order in which they were bound or asked for. */
export function projectOfRun(facts: Facts): Raw {
  const { log, itemPlaces } = facts
  const seen = new Set<number>()
  const items: Raw[] = []
  const add = (asset: number) => {
    if (seen.has(asset)) return
    seen.add(asset)
    const { address, bytes } = log.assets[asset]!
    items.push({ id: String(items.length + 1), photo: address, ...(bytes > 0 ? { bytes } : {}) })
  }
  const byRow = facts.claims
    .filter((claim) => claim.row >= 0 && itemPlaces.size > 0)
    .toSorted((one, other) => one.row - other.row)
  for (const claim of byRow) add(log.renditions[claim.rendition]!.asset)
  for (const request of facts.requests) add(request.asset)
  const heights = facts.places.map(({ height }) => height / unitsPerDp).toSorted((one, other) => one - other)
  const { columns } = log.head.policy
  return {
    format: projectFormat,
    version: projectVersion,
    name: log.head.project,
    screens: [
      {
        id: log.head.screen,
        name: 'As recorded',
        feed: { source: { type: 'inline', items } },
        layout: { columns, gapDp: 0, paddingDp: 0 },
        cells: [
          {
            kind: '*',
            height: { type: 'fixed', dp: clamp(Math.round(heights[heights.length >> 1] ?? 120), 1, 4000) },
            slots: [
              { id: 'main', address: { type: 'pointer', at: '/photo' }, bytesAt: '/bytes', size: { type: 'fill' } },
            ],
          },
        ],
      },
    ],
  }
}

const clamp = (value: number, least: number, most: number) => Math.max(least, Math.min(most, value))
