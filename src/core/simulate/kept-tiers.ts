import type { AssetTable } from '../loading/asset-table.ts'
import type { Loader } from '../loading/loader.ts'
import type { KeptTiers } from '../loading/loader-state.ts'
import type { Visit } from '../project/types.ts'

/** The contents of the tiers, by address, so that the next visit's tables can number them again. */
export function keepTiers(loader: Loader, table: AssetTable): KeptTiers {
  return {
    disk: loader.diskTier.list(),
    memory: loader.memory.entries().map(({ rendition, bytes }) => {
      const { width, height, asset, frames, frameMs } = table.renditions[rendition]!
      const { address, sourceWidth, sourceHeight, bytes: assetBytes, host } = table.assets[asset]!
      return {
        identity: address,
        host,
        target: table.targets[rendition]!,
        bytes,
        width,
        height,
        sourceWidth,
        sourceHeight,
        assetBytes,
        ...(frames === undefined ? {} : { frames, frameMs }),
      }
    }),
  }
}

/** Fills the tiers of a new visit: `restarted` finds the disk, `again` both. */
export function restoreTiers(kept: KeptTiers, visit: Visit, loader: Loader, table: AssetTable): void {
  if (visit === 'first') return
  const unknown = { bytes: null, widthPx: null, heightPx: null }
  for (const entry of kept.disk)
    loader.diskTier.put(table.asset(entry.identity, entry.identity, entry.host, unknown), entry)
  if (visit !== 'again') return
  for (const entry of kept.memory) {
    const asset = table.asset(entry.identity, entry.identity, entry.host, unknown)
    const row = table.assets[asset]!
    row.sourceWidth = entry.sourceWidth
    row.sourceHeight = entry.sourceHeight
    row.bytes = entry.assetBytes
    // Tiers that were kept before treatments were typed cannot be read.
    const rendition = table.rendition(asset, { ...entry.target, making: entry.target.making ?? [] })
    Object.assign(table.renditions[rendition]!, {
      width: entry.width,
      height: entry.height,
      ...(entry.frames === undefined ? {} : { frames: entry.frames, frameMs: entry.frameMs }),
    })
    loader.memory.keep(rendition, entry.bytes)
  }
}
