import { EvidenceError } from './evidence.ts'

/**
 * The longest line of a source, characters: no evidence needs more, and a file without line ends must not fill memory.
 */
const longestLine = 1_000_000

/** Splits text that comes in pieces into lines: any line end, a byte order mark in front left out. */
export class Lines {
  private readonly take: (line: string, number: number) => void
  private rest = ''
  private count = 0
  private begun = false

  constructor(take: (line: string, number: number) => void) {
    this.take = take
  }

  push(piece: string): void {
    let text = this.rest + piece
    if (!this.begun && text !== '') {
      this.begun = true
      if (text.charCodeAt(0) === 0xfeff) text = text.slice(1)
    }
    let from = 0
    for (let end = text.indexOf('\n'); end >= 0; end = text.indexOf('\n', from)) {
      this.take(text.charCodeAt(end - 1) === 13 ? text.slice(from, end - 1) : text.slice(from, end), ++this.count)
      from = end + 1
    }
    this.rest = text.slice(from)
    if (this.rest.length > longestLine)
      throw new EvidenceError(
        `line ${this.count + 1} is longer than ${longestLine} characters; this is not a text of lines`,
      )
  }

  /** The last line may lack its end. */
  finish(): void {
    if (this.rest !== '') this.take(this.rest.replace(/\r$/, ''), ++this.count)
    this.rest = ''
  }
}
