import type { Hints } from '../worlds/ports.ts'
import type { AssetRow, RenditionRow, RunLog } from '../log/run-log.ts'
import type { Target } from './rendition.ts'

/** Most shapes of a slot that one asset can be decoded for: room in the packed rendition key. */
const shapeRoom = 4096

/**
 * The numbers of assets and renditions: addresses are interned once, at the edge, and everything inside works on whole
 * numbers. The rows are in the log's tables, which the profile reads.
 */
export class AssetTable {
  readonly assets: AssetRow[]
  readonly renditions: RenditionRow[]
  readonly targets: Target[] = []
  readonly hints: Hints[] = []
  /** The address that is really requested, which may carry parameters that do not make another picture. */
  readonly hrefs: string[] = []
  private readonly assetNumbers = new Map<string, number>()
  private readonly shapes = new Map<string, number>()
  private readonly shapeByTarget = new WeakMap<Target, number>()
  private readonly renditionNumbers = new Map<number, number>()
  /** The renditions of each asset. */
  private readonly ofAsset = new Map<number, number[]>()

  constructor(log: RunLog) {
    this.assets = log.assets
    this.renditions = log.renditions
  }

  /** The number of the asset at an address. `identity` is the address without parameters that do not matter. */
  asset(identity: string, href: string, host: string, hints: Hints): number {
    let number = this.assetNumbers.get(identity)
    if (number === undefined) {
      number = this.assets.push({ address: identity, host, sourceWidth: 0, sourceHeight: 0, bytes: 0 }) - 1
      this.assetNumbers.set(identity, number)
      this.hints.push(hints)
      this.hrefs.push(href)
    } else if (this.hints[number]!.bytes === null && this.hints[number]!.widthPx === null) this.hints[number] = hints
    return number
  }

  rendition(asset: number, target: Target): number {
    const { width, height, fit } = target
    const shape = this.shapeOf(target)
    const key = asset * shapeRoom + shape
    let number = this.renditionNumbers.get(key)
    if (number === undefined) {
      number = this.renditions.push({ asset, targetWidth: width, targetHeight: height, fit, width: 0, height: 0 }) - 1
      this.targets.push(target)
      this.renditionNumbers.set(key, number)
      const others = this.ofAsset.get(asset)
      if (others) others.push(number)
      else this.ofAsset.set(asset, [number])
    }
    return number
  }

  /** The number of a target; equal ones have one. */
  private shapeOf(target: Target): number {
    const known = this.shapeByTarget.get(target)
    if (known !== undefined) return known
    const { width, height, fit, decodeAt, making, moments } = target
    const fixed = decodeAt.type === 'fixed' ? decodeAt.px : 0
    const name = `${width} ${height} ${fit} ${decodeAt.type} ${fixed} ${making.length === 0 ? '' : JSON.stringify(making)}${moments === undefined ? '' : ` ${typeof moments === 'object' ? moments.ms : moments}`}`
    let shape = this.shapes.get(name)
    if (shape === undefined) this.shapes.set(name, (shape = this.shapes.size))
    this.shapeByTarget.set(target, shape)
    return shape
  }

  assetOf(rendition: number): number {
    return this.renditions[rendition]!.asset
  }

  /** All renditions that an asset has been wanted as so far. */
  renditionsOf(asset: number): readonly number[] {
    return this.ofAsset.get(asset) ?? []
  }

  /** What identifies a rendition across visits. */
  lastingKey(rendition: number): { identity: string; target: Target } {
    return { identity: this.assets[this.assetOf(rendition)]!.address, target: this.targets[rendition]! }
  }
}
