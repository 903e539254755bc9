import { EvidenceError } from './evidence.ts'

/** The longest element, characters: an archive may carry bodies, but not films. */
const longest = 128_000_000
const quote = 34

/**
 * Cuts a JSON text that comes in pieces into the elements of some of its arrays, without holding the rest: each is
 * handed over as text. Arrays are named by their path, such as `log.entries`; everything else is skipped.
 */
export class JsonSlices {
  private readonly paths: ReadonlySet<string>
  private readonly take: (path: string, element: string) => void
  /** The keys on the way to it; null for arrays, and for what is nested too deep to matter. */
  private readonly keys: (string | null)[] = []
  private readonly opened: string[] = []
  /** The path of the array that it is in, when its elements are wanted. */
  private within: string | null = null
  private withinDepth = 0
  /** The element that is being read, in pieces; null: none. */
  private element: string[] | null = null
  private length = 0
  /** Within a string: its text, where it may be a key. */
  private inString = false
  private escaped = false
  private word: string | null = null
  private lastWord: string | null = null
  private begun = false
  private read = 0
  /** Position of the next backslash of the piece; Infinity: there is none. */
  private escapeAt = -1

  constructor(paths: readonly string[], take: (path: string, element: string) => void) {
    this.paths = new Set(paths)
    this.take = take
  }

  push(piece: string): void {
    this.escapeAt = -1
    let at = 0
    if (!this.begun && piece.charCodeAt(0) === 0xfeff) at = 1
    /** Where the element that is being read continues in this piece. */
    let from = this.element ? 0 : -1
    while (at < piece.length) {
      if (this.inString) {
        at = this.passString(piece, at)
        continue
      }
      const code = piece.charCodeAt(at)
      if (!this.begun && code > 32) {
        this.begun = true
        if (code !== 123) throw new EvidenceError('this is not a JSON object: it does not begin with {')
      }
      if (code === quote) {
        this.inString = true
        // Only keys near the top are wanted: none within an element.
        this.word = this.element ? null : ''
      } else if (code === 123 || code === 91) {
        if (this.beginsElement()) from = at
        this.open(code === 123 ? '{' : '[')
      } else if (code === 125 || code === 93) {
        this.close(code === 125 ? '{' : '[')
        if (this.endsElement(piece, from, at)) from = -1
      } else if (code === 58 && !this.element && this.opened.at(-1) === '{')
        this.keys[this.opened.length - 1] = this.lastWord
      at++
    }
    if (this.element) {
      const kept = piece.slice(from)
      this.element.push(kept)
      if ((this.length += kept.length) > longest)
        throw new EvidenceError(`an element is longer than ${longest} characters; leave bodies out when you record`)
    }
    this.read += piece.length
  }

  private beginsElement(): boolean {
    if (this.within === null || this.element || this.opened.length !== this.withinDepth) return false
    this.element = []
    this.length = 0
    return true
  }

  private endsElement(piece: string, from: number, at: number): boolean {
    if (!this.element || this.opened.length !== this.withinDepth) {
      if (!this.element && this.within !== null && this.opened.length < this.withinDepth) this.within = null
      return false
    }
    this.element.push(piece.slice(from, at + 1))
    const text = this.element.join('')
    this.element = null
    this.take(this.within!, text)
    return true
  }

  /** Whether the text is complete; false: it was cut short. */
  finish(): boolean {
    if (!this.begun) throw new EvidenceError('this is an empty file')
    return this.opened.length === 0 && !this.inString
  }

  /** Continues after the string that begins or continues at a position, or at the end of the piece. */
  private passString(piece: string, from: number): number {
    let at = from
    if (this.escaped) {
      this.escaped = false
      at++
    }
    for (;;) {
      const end = piece.indexOf('"', at)
      // Most texts have few: the position of the next one is looked up once.
      if (this.escapeAt < at) this.escapeAt = indexOrEnd(piece.indexOf('\\', at))
      const escape = this.escapeAt === Infinity ? -1 : this.escapeAt
      if (escape >= 0 && (end < 0 || escape < end)) {
        if (escape + 1 === piece.length) {
          this.escaped = true
          if (this.word !== null) this.word += piece.slice(from)
          return piece.length
        }
        at = escape + 2
        if (at >= piece.length && end < 0) break
        continue
      }
      if (end < 0) break
      if (this.word !== null) this.lastWord = this.word + piece.slice(from, end)
      this.inString = false
      this.word = null
      return end + 1
    }
    if (this.word !== null && this.word.length < 1000) this.word += piece.slice(from)
    return piece.length
  }

  private open(bracket: string): void {
    this.opened.push(bracket)
    if (this.opened.length > 200) throw new EvidenceError('this JSON is nested deeper than 200 levels')
    if (this.element || this.within !== null || bracket !== '[') return
    const path = this.keys.slice(0, this.opened.length - 1).join('.')
    if (!this.paths.has(path)) return
    this.within = path
    this.withinDepth = this.opened.length
  }

  private close(bracket: string): void {
    if (this.opened.pop() !== bracket)
      throw new EvidenceError(
        `this JSON is damaged: a ${bracket === '{' ? '}' : ']'} closes nothing, near character ${this.read}`,
      )
    if (!this.element) this.keys.length = Math.min(this.keys.length, this.opened.length)
  }
}

const indexOrEnd = (index: number) => (index < 0 ? Infinity : index)
