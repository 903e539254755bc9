import { appEventsFormat, type AppEvent } from '../../core/evidence/app-event.ts'

/** How an app sends its events: NDJSON in batches, each with the app's clock, so that the other side can align it. */
export class EventSender {
  sent = 0
  private readonly url: string
  private readonly head: object
  private readonly now: () => number
  private waiting: AppEvent[] = []
  private rttMs: number | null = null
  private sending: Promise<void> = Promise.resolve()

  constructor(url: string, head: object, now: () => number) {
    this.url = url
    this.head = { format: appEventsFormat, version: 1, ...head }
    this.now = now
  }

  add(event: AppEvent): void {
    this.waiting.push(event)
  }

  /** Sends what waits, one batch after the other. */
  flush(): Promise<void> {
    this.sending = this.sending.then(() => this.sendBatch())
    return this.sending
  }

  private async sendBatch(): Promise<void> {
    const batch = this.waiting
    if (batch.length === 0) return
    this.waiting = []
    const clockMs = this.now()
    const head = { ...this.head, clockMs, ...(this.rttMs === null ? {} : { rttMs: this.rttMs }) }
    const body = [head, ...batch].map((line) => `${JSON.stringify(line)}\n`).join('')
    const answer = await fetch(this.url, { method: 'POST', headers: { 'Content-Type': 'application/x-ndjson' }, body })
    if (!answer.ok) throw new Error(`${this.url} answered ${answer.status}: ${await answer.text()}`)
    await answer.arrayBuffer()
    this.rttMs = this.now() - clockMs
    this.sent += batch.length
  }
}
