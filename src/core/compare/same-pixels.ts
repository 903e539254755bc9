/** Two pictures compared px by px. */
export interface PixelDifference {
  width: number
  height: number
  /** px that differ in any channel, or that only one of the pictures has. */
  differing: number
  /** The greatest difference in a channel, 0–255. */
  most: number
  /** One byte a px: how much it differs. */
  by: Uint8Array
}

export interface Pixels {
  width: number
  height: number
  /** RGBA, four bytes a px. */
  data: ArrayLike<number>
}

/** Compares two pictures; where only one of them has a px, it differs by 255. */
export function differencesOf(one: Pixels, other: Pixels): PixelDifference {
  const width = Math.max(one.width, other.width)
  const height = Math.max(one.height, other.height)
  const by = new Uint8Array(width * height)
  let differing = 0
  let most = 0
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const both = x < one.width && y < one.height && x < other.width && y < other.height
      const value = both ? differenceAt(one, other, x, y) : 255
      by[y * width + x] = value
      if (value > 0) differing++
      most = Math.max(most, value)
    }
  return { width, height, differing, most, by }
}

function differenceAt(one: Pixels, other: Pixels, x: number, y: number): number {
  const a = 4 * (y * one.width + x)
  const b = 4 * (y * other.width + x)
  let value = 0
  for (let channel = 0; channel < 4; channel++)
    value = Math.max(value, Math.abs(one.data[a + channel]! - other.data[b + channel]!))
  return value
}
