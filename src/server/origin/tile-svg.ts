import { hashText } from '../../core/numbers/draw.ts'

const grounds = ['#EFE6DA', '#F3EFE4', '#E9E2D3', '#F7F4EC', '#F0E9DF']
const glazes = ['#0E6470', '#31465C', '#D98E04', '#5A5FB0', '#7A3B2E', '#2B4B8C', '#2F7A64', '#E3A23B', '#983A74']

/** The stamp: n in 24 bars along the bottom edge, most significant left, dark = 1. */
const stampBars = 24
const stampHeight = (height: number) => Math.max(6, Math.round(height * 0.08))

export interface TileLook {
  stamp: boolean
  /** It carries the mark of a video that can be played. */
  poster: boolean
  /** How far its pattern has turned, 0–1: the frames of a moving tile. */
  turn: number
}

/** A made-up glazed tile as SVG, drawn from its number alone. */
export function tileSvg(n: number, width: number, height: number, { stamp, poster, turn }: TileLook): string {
  const pick = (list: readonly string[], salt: string) => list[hashText(`${salt} ${n}`) % list.length]!
  const main = pick(glazes, 'main')
  const second = pick(
    glazes.filter((glaze) => glaze !== main),
    'second',
  )
  const ground = pick(grounds, 'ground')
  const pattern = patterns[hashText(`pattern ${n}`) % patterns.length]!(main, second, ground)
  return (
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}">` +
    `<rect width="100%" height="100%" fill="${ground}"/>` +
    `<svg viewBox="0 0 120 120" width="${width}" height="${height}" preserveAspectRatio="xMidYMid slice">${turn === 0 ? pattern : `<g transform="rotate(${360 * turn} 60 60)">${pattern}</g>`}${poster ? playMark : ''}</svg>` +
    (stamp ? stampOf(n, width, height) : '') +
    '</svg>'
  )
}

/** A triangle in a disc: the mark of a video's poster. */
const playMark =
  '<circle cx="60" cy="60" r="20" fill="#15252F" fill-opacity=".7"/><path fill="#FFFDF8" d="M54 50l18 10-18 10z"/>'

type Pattern = (main: string, second: string, ground: string) => string

const patterns: Pattern[] = [
  (main, second, ground) =>
    `<path fill="${main}" d="M0 0h60v60H0zM60 60h60v60H60z"/><circle cx="30" cy="30" r="17" fill="${second}"/>` +
    `<circle cx="90" cy="90" r="17" fill="${second}"/><circle cx="90" cy="30" r="7" fill="${main}"/><circle cx="30" cy="90" r="7" fill="${ground}"/>`,
  (main, second, ground) =>
    `<path fill="${main}" d="M60 6l54 54-54 54L6 60z"/><path fill="${ground}" d="M60 28l32 32-32 32-32-32z"/><path fill="${second}" d="M60 44l16 16-16 16-16-16z"/>`,
  (main, second) =>
    `<g fill="none" stroke="${main}" stroke-width="11"><circle cx="0" cy="0" r="46"/><circle cx="120" cy="0" r="46"/><circle cx="0" cy="120" r="46"/>` +
    `<circle cx="120" cy="120" r="46"/></g><path fill="${second}" d="M60 36l24 24-24 24-24-24z"/>`,
  (main, second) =>
    `<g fill="${main}"><path d="M60 60C20 55 5 30 4 4c26 1 51 16 56 56z"/><path d="M60 60C65 20 90 5 116 4c-1 26-16 51-56 56z"/>` +
    `<path d="M60 60c40 5 55 30 56 56-26-1-51-16-56-56z"/><path d="M60 60c-5 40-30 55-56 56 1-26 16-51 56-56z"/></g><circle cx="60" cy="60" r="13" fill="${second}"/>`,
  (main, second) =>
    `<g fill="none" stroke-width="9"><path stroke="${main}" d="M0 20q30-28 60 0t60 0M0 60q30-28 60 0t60 0M0 100q30-28 60 0t60 0"/>` +
    `<path stroke="${second}" d="M0 40q30-28 60 0t60 0M0 80q30-28 60 0t60 0"/></g>`,
  (main, second, ground) =>
    `<path fill="${main}" d="M60 4l17 39 39 17-39 17-17 39-17-39L4 60l39-17z"/><circle cx="60" cy="60" r="20" fill="${ground}"/><circle cx="60" cy="60" r="11" fill="${second}"/>`,
]

function stampOf(n: number, width: number, height: number): string {
  const tall = stampHeight(height)
  let bars = ''
  for (let bar = 0; bar < stampBars; bar++) {
    const from = Math.round((bar * width) / stampBars)
    const to = Math.round(((bar + 1) * width) / stampBars)
    const dark = (n >> (stampBars - 1 - bar)) & 1
    bars += `<rect x="${from}" y="${height - tall}" width="${to - from}" height="${tall}" fill="${dark ? '#000' : '#fff'}" shape-rendering="crispEdges"/>`
  }
  return bars
}
