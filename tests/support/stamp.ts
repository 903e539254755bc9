/** Reads the number that 24 bars along the bottom edge of a picture stand for, most significant left, dark = 1. */
export function readStamp(pixels: ArrayLike<number>, width: number, height: number, channels: number): number {
  const row = height - Math.max(2, Math.floor(height * 0.03))
  let n = 0
  for (let bar = 0; bar < 24; bar++) {
    const x = Math.floor(((bar + 0.5) * width) / 24)
    const at = (row * width + x) * channels
    const light = (pixels[at]! + pixels[at + 1]! + pixels[at + 2]!) / 3
    n = n * 2 + (light < 128 ? 1 : 0)
  }
  return n
}
