import { spawn, type ChildProcess } from 'node:child_process'
import { createInterface } from 'node:readline'
import { vectorOutput, type VectorOutput } from '../../core/vectors/protocol.ts'

/** How long a loader may take for one answer, ms. */
const answerMs = 2000
/** A program has to start before it can answer: the first time it may take this long. */
const startMs = 15_000
/** The most lines of one answer. */
const mostLines = 10_000

/** A loader's answer to one step: its outputs, or why there are none. */
export type Answer = { outputs: VectorOutput[] } | { trouble: string }

/**
 * A loader under test: a program that reads steps and writes answers, one per line. It is started again after it has
 * failed.
 */
export class LoaderProcess {
  private readonly command: string
  private readonly args: readonly string[]
  private child: ChildProcess | null = null
  private waiting: ((line: string | null) => void) | null = null
  private lines: string[] = []
  private ended: string | null = null
  /** How long it took to start the last time that it answered; null: it never has. */
  private tookMs: number | null = null
  private beganAt = 0
  /** It has been started, and has not answered yet. */
  private isNew = false
  private starts = 0

  constructor(command: string, args: readonly string[]) {
    this.command = command
    this.args = args
  }

  /** Announces the next case; the program is started for the first one. */
  begin(line: object): void {
    if (!this.child) this.start()
    this.write(line)
  }

  /** Sends a step and reads the answer. */
  async send(step: object, settle: number): Promise<Answer> {
    this.write(step)
    this.write({ settle })
    const outputs: VectorOutput[] = []
    const mayTake = this.mayTake()
    const until = Date.now() + mayTake
    for (let count = 0; count < mostLines; count++) {
      const line = await this.nextLine(until - Date.now())
      if (line === null) return this.failed(this.ended ?? `no answer within ${mayTake / 1000} s`)
      if (this.isNew) this.tookMs = Date.now() - this.beganAt
      this.isNew = false
      let value: unknown
      try {
        value = JSON.parse(line)
      } catch {
        return this.failed(`a line that is not JSON: ${line.slice(0, 200)}`)
      }
      if ((value as { settled?: unknown } | null)?.settled === settle) return { outputs }
      const output = vectorOutput.safeParse(value)
      if (!output.success) return this.failed(`a line that is not an answer: ${line.slice(0, 200)}`)
      outputs.push(output.data)
    }
    return this.failed(`more than ${mostLines} lines for one step`)
  }

  stop(): void {
    this.child?.kill()
    this.child = null
  }

  /** A program that has never answered is not waited for that long again. */
  private mayTake(): number {
    if (!this.isNew) return answerMs
    const usual = this.starts === 1 ? startMs : answerMs
    return this.tookMs === null ? usual : Math.max(answerMs, 3 * this.tookMs)
  }

  private failed(trouble: string): Answer {
    // Later output belongs to nothing: the next case starts another process.
    this.stop()
    return { trouble }
  }

  private start(): void {
    const child = spawn(this.command, this.args, { stdio: ['pipe', 'pipe', 'inherit'] })
    this.child = child
    this.lines = []
    this.ended = null
    this.beganAt = Date.now()
    this.isNew = true
    this.starts++
    const end = (why: string) => {
      if (this.child !== child) return
      this.ended ??= why
      this.hand(null)
    }
    child.on('error', (error) => end(`the loader cannot be started: ${error.message}`))
    child.on('exit', (code, signal) => end(`the loader has ended (${signal ?? `code ${code}`})`))
    child.stdin.on('error', () => undefined)
    createInterface({ input: child.stdout }).on('line', (line) => {
      if (this.child !== child || line.trim() === '') return
      if (this.waiting) this.hand(line)
      else this.lines.push(line)
    })
  }

  private write(line: object): void {
    this.child?.stdin?.write(`${JSON.stringify(line)}\n`)
  }

  private hand(line: string | null): void {
    const { waiting } = this
    this.waiting = null
    waiting?.(line)
  }

  private nextLine(ms: number): Promise<string | null> {
    const line = this.lines.shift()
    if (line !== undefined) return Promise.resolve(line)
    if (this.ended !== null) return Promise.resolve(null)
    return new Promise((resolve) => {
      const timer = setTimeout(() => this.hand(null), Math.max(0, ms))
      this.waiting = (answer) => {
        clearTimeout(timer)
        resolve(answer)
      }
    })
  }
}
