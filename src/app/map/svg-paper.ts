/** What drawMap draws with, written as SVG 1.1 instead of px: the few calls that it makes. */
export class SvgPaper {
  strokeStyle: string | CanvasPattern = '#000'
  fillStyle: string | CanvasPattern = '#000'
  lineWidth = 1
  globalAlpha = 1
  font = '11px sans-serif'
  textAlign: CanvasTextAlign = 'left'
  private readonly parts: string[] = []
  private path = ''
  private dash = ''
  private clips = 0
  private open = 0

  /** The whole picture, so many px wide and high, on a background. */
  text(width: number, height: number, ground: string): string {
    return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}"><defs>${pattern}</defs><rect width="${width}" height="${height}" fill="${ground}"/>${this.parts.join('')}${'</g>'.repeat(this.open)}</svg>\n`
  }

  clearRect(): void {
    this.parts.length = 0
  }

  save(): void {
    // Only the clip is saved and restored; drawMap sets the rest again each time.
  }

  restore(): void {
    if (this.open === 0) return
    this.open--
    this.parts.push('</g>')
  }

  beginPath(): void {
    this.path = ''
  }

  moveTo(x: number, y: number): void {
    this.path += `M${short(x)} ${short(y)}`
  }

  lineTo(x: number, y: number): void {
    this.path += `${this.path === '' ? 'M' : 'L'}${short(x)} ${short(y)}`
  }

  closePath(): void {
    this.path += 'Z'
  }

  rect(x: number, y: number, width: number, height: number): void {
    this.path += `M${short(x)} ${short(y)}h${short(width)}v${short(height)}h${short(-width)}Z`
  }

  /** A whole ring, or most of one. */
  arc(x: number, y: number, r: number, from: number, to: number): void {
    const end = Math.min(to - from, 6.283)
    const [ex, ey] = [x + r * Math.cos(from + end), y + r * Math.sin(from + end)]
    const half = from + end / 2
    this.path += `M${short(x + r * Math.cos(from))} ${short(y + r * Math.sin(from))}A${r} ${r} 0 0 1 ${short(x + r * Math.cos(half))} ${short(y + r * Math.sin(half))}A${r} ${r} 0 0 1 ${short(ex)} ${short(ey)}`
  }

  clip(): void {
    const name = `clip-${this.clips++}`
    this.parts.push(`<clipPath id="${name}"><path d="${this.path}"/></clipPath><g clip-path="url(#${name})">`)
    this.open++
  }

  stroke(): void {
    this.parts.push(
      `<path d="${this.path}" fill="none" stroke="${inkOf(this.strokeStyle)}" stroke-width="${this.lineWidth}"${this.alpha}${this.dash}/>`,
    )
  }

  fill(): void {
    this.parts.push(`<path d="${this.path}" fill="${inkOf(this.fillStyle)}"${this.alpha}/>`)
  }

  fillRect(x: number, y: number, width: number, height: number): void {
    this.parts.push(
      `<rect x="${short(x)}" y="${short(y)}" width="${short(width)}" height="${short(height)}" fill="${inkOf(this.fillStyle)}"${this.alpha}/>`,
    )
  }

  fillText(text: string, x: number, y: number): void {
    const anchor = { left: 'start', right: 'end', center: 'middle', start: 'start', end: 'end' }[this.textAlign]
    this.parts.push(
      `<text x="${short(x)}" y="${short(y)}" text-anchor="${anchor}" font-family="sans-serif" font-size="${Number.parseFloat(this.font)}" fill="${inkOf(this.fillStyle)}">${escaped(text)}</text>`,
    )
  }

  setLineDash(dash: number[]): void {
    this.dash = dash.length > 0 ? ` stroke-dasharray="${dash.join(' ')}"` : ''
  }

  /** The one pattern of a map is the hatching of its holes. */
  createPattern(): CanvasPattern {
    return hatching as CanvasPattern
  }

  private get alpha(): string {
    return this.globalAlpha < 1 ? ` opacity="${this.globalAlpha}"` : ''
  }
}

const short = (value: number) => String(Math.round(value * 100) / 100)
const hatching = {}
const pattern =
  '<pattern id="hatch" width="5" height="5" patternUnits="userSpaceOnUse"><path d="M-1 6L6 -1M-1 1L1 -1M4 6L6 4" stroke="#b87208"/></pattern>'
const inkOf = (style: string | CanvasPattern) => (typeof style === 'string' ? escaped(style.trim()) : 'url(#hatch)')
const escaped = (text: string) => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('"', '&quot;')
