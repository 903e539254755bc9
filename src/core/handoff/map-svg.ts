import { mapClasses, type MapData } from '../profile/views/map-data.ts'

const size = { width: 460, height: 230 }
const edge = { left: 4, top: 4, right: 4, bottom: 18 }
/** The most lines of a drawing: more would not be readable. */
const mostLines = 3000

/** Colours by class, as the map of the bench has them on paper. */
const colours: Partial<Record<(typeof mapClasses)[number], string>> = {
  shown: '#11808a',
  shownEarly: '#5a5fb0',
  cutOff: '#7e868c',
  neverSeen: '#983a74',
  again: '#7a5a3a',
  failed: '#c03a2b',
}
const other = '#9aa3a8'

/** A scroll map as a self-contained SVG: the gesture as a channel, every request as a line. */
export function mapSvg(map: MapData, title: string): string {
  const { channel, lines, endMs, heightDp } = map
  let deepest = heightDp
  for (const top of channel.top) deepest = Math.max(deepest, top + heightDp)
  for (const y of lines.y) deepest = Math.max(deepest, y)
  const x = (ms: number) => round(edge.left + (ms / Math.max(1, endMs)) * (size.width - edge.left - edge.right))
  const y = (dp: number) => round(edge.top + (dp / Math.max(1, deepest)) * (size.height - edge.top - edge.bottom))
  const tops = [...channel.t].map((t, i) => [x(t), channel.top[i]!] as const)
  // Before the first scroll and after the last the list is at rest.
  const points = [[x(0), tops[0]?.[1] ?? 0] as const, ...tops, [x(endMs), tops.at(-1)?.[1] ?? 0] as const]
  const band = [
    ...points.map(([px, top]) => `${px},${y(top)}`),
    ...points.toReversed().map(([px, top]) => `${px},${y(top + heightDp)}`),
  ].join(' ')
  const step = Math.max(1, Math.ceil(lines.y.length / mostLines))
  const drawn = [...lines.y.keys()]
    .filter((i) => i % step === 0)
    .map((i) => {
      const colour = colours[mapClasses[lines.kind[i]!]!] ?? other
      const at = y(lines.y[i]!)
      return `<path d="M${x(lines.from[i]!)} ${at}H${x(lines.to[i]!)}" stroke="${colour}"/>`
    })
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${size.width} ${size.height}" role="img" aria-label="${escaped(title)}">`,
    `<polygon points="${band}" fill="#ddecee" stroke="#0e6470" stroke-width="0.7"/>`,
    `<g fill="none" stroke-width="1">${drawn.join('')}</g>`,
    `<text x="${edge.left}" y="${size.height - 4}" font-size="11" fill="#54626a">0 s</text>`,
    `<text x="${size.width - edge.right}" y="${size.height - 4}" font-size="11" fill="#54626a" text-anchor="end">${(endMs / 1000).toFixed(1)} s</text>`,
    '</svg>',
  ].join('')
}

const round = (value: number) => Math.round(value * 10) / 10

/** A text escaped for HTML, attributes included. */
export const escaped = (text: string) =>
  text.replace(/[&<>"']/g, (mark) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' })[mark]!)
