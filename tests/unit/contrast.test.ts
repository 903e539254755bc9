import { readFile } from 'node:fs/promises'
import { describe, expect, it } from 'vitest'
import { classWords, ghostStrength } from '../../src/app/map/map-words.ts'

const tokens = await readFile('src/app/theme/tokens.css', 'utf8')
type Rgb = readonly number[]

/** The colours of a theme, by name; the dark one has what it does not name from the light one. */
function themeOf(block: string): Map<string, Rgb> {
  const rgb = (hex: string): Rgb => [0, 2, 4].map((at) => Number.parseInt(hex.slice(at, at + 2), 16))
  return new Map([...block.matchAll(/(--[\w-]+): #([0-9a-f]{6});/g)].map(([, name, hex]) => [name!, rgb(hex!)]))
}
const [light, dark] = tokens.split("[data-bs-theme='dark']").map(themeOf)
const themes = { light: light!, dark: new Map([...light!, ...dark!]) }

/** Relative luminance and contrast as WCAG 2.2 defines them. */
function luminance(colour: Rgb): number {
  const [red, green, blue] = colour.map((value) => {
    const share = value / 255
    return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4
  })
  return 0.2126 * red! + 0.7152 * green! + 0.0722 * blue!
}
function contrast(one: Rgb, other: Rgb): number {
  const [lighter, darker] = [luminance(one), luminance(other)].sort((a, b) => b - a)
  return (lighter! + 0.05) / (darker! + 0.05)
}

describe.each(Object.entries(themes))('marks on the map in the %s theme', (_, colours) => {
  const grounds = ['--panel', '--channel']
  const hues = [...new Set([...Object.values(classWords).map(({ hue }) => hue), '--hole', '--deep'])]

  it.each(hues)('%s stands out from either ground at 3 : 1', (hue) => {
    for (const ground of grounds)
      expect(contrast(colours.get(hue)!, colours.get(ground)!), ground).toBeGreaterThanOrEqual(3)
  })

  it('and so does the run behind, paler as it is', () => {
    for (const ground of grounds) {
      const under = colours.get(ground)!
      const drawn = colours.get('--quiet')!.map((value, i) => ghostStrength * value + (1 - ghostStrength) * under[i]!)
      expect(contrast(drawn, under), ground).toBeGreaterThanOrEqual(3)
    }
  })

  it('and text from every ground at 4.5 : 1', () => {
    for (const text of ['--ink', '--quiet'])
      for (const ground of ['--paper', '--panel', '--well', '--channel'])
        expect([text, ground, contrast(colours.get(text)!, colours.get(ground)!) >= 4.5]).toEqual([text, ground, true])
  })
})
