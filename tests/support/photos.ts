/** How many there are: more than a screen shows, of every size between. */
export const photoCount = 24

/**
 * Photo-like pictures of 2 to 12 megapixels: smooth noise around a hue of their own, each with a mean colour of its
 * own.
 */
export function photoOf(n: number): {
  name: string
  width: number
  height: number
  pixels: Buffer
  small: { width: number; height: number }
} {
  const megapixels = 2 + (10 * n) / (photoCount - 1)
  const tall = n % 3 === 1
  const long = Math.round(Math.sqrt((megapixels * 1e6 * 4) / 3))
  const short = Math.round((long * 3) / 4)
  const small = { width: 40, height: 30 }
  const pixels = Buffer.alloc(small.width * small.height * 3)
  const [red, green, blue] = hueOf(n)
  for (let i = 0; i < small.width * small.height; i++) {
    const grain = ((Math.imul(i + n * 977, 2_654_435_761) >>> 24) % 41) - 20
    pixels[3 * i] = red + grain
    pixels[3 * i + 1] = green + grain
    pixels[3 * i + 2] = blue + grain
  }
  return {
    name: `photo-${String(n).padStart(2, '0')}.jpg`,
    width: tall ? short : long,
    height: tall ? long : short,
    pixels,
    small,
  }
}

/** The mean colour of photo n: no two are alike. */
function hueOf(n: number): [number, number, number] {
  return [40 + (n % 4) * 55, 40 + (Math.floor(n / 4) % 4) * 55, 40 + Math.floor(n / 16) * 70]
}
