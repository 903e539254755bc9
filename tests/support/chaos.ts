import type { BrowserContext, Locator, Page } from '@playwright/test'
import { draw } from '../../src/core/numbers/draw.ts'
import type { ServerProcess } from './servers.ts'

/** A change is kept when it is older than this, ms. */
const keptAfterMs = 1000
/** A bound for what hangs, ms. */
const patienceMs = 60_000

export interface ChaosReport {
  steps: string[]
  /** What was wrong; empty: nothing. */
  broken: string[]
}

interface ChaosOptions {
  context: BrowserContext
  server: ServerProcess
  seed: number
  /** Whether another step is made. */
  goesOn: (steps: number) => boolean
  /** The text of a project with a short gesture. */
  project: string
}

/**
 * Drives the real interface by chance while the server is stopped, frozen and slowed, storage is filled and freed, and
 * tabs are opened, reloaded and crashed; then everything is restored, and each change older than a second and each
 * finished run must be there. The same seed makes the same steps.
 */
export async function runChaos(options: ChaosOptions): Promise<ChaosReport> {
  const chaos = new Chaos(options)
  await chaos.begin()
  while (options.goesOn(chaos.report.steps.length)) await chaos.step()
  await chaos.end()
  return chaos.report
}

class Chaos {
  readonly report: ChaosReport = { steps: [], broken: [] }
  private readonly options: ChaosOptions
  private page!: Page
  private address = ''
  private draws = 0
  private isUp = true
  private isFull = false
  /** Rows ahead as they were set last and before that, and when. */
  private edit = { value: 2, before: 2, at: 0 }
  /** How many runs were made. */
  private runs = 0

  constructor(options: ChaosOptions) {
    this.options = options
  }

  async begin(): Promise<void> {
    const { context, server, project } = this.options
    const filler = await context.newPage()
    await filler.goto(`${server.address}favicon.svg`)
    const quota = await context.newCDPSession(filler)
    await quota.send('Storage.overrideQuotaForOrigin', {
      origin: new URL(server.address).origin,
      quotaSize: 10_000_000,
    })
    await filler.close()
    this.page = await this.newPage()
    await this.page.goto(server.address)
    const menu = this.page.locator('#project-menu')
    await menu.waitFor({ timeout: patienceMs })
    const before = await menu.getAttribute('data-project')
    await this.page
      .getByLabel('Project file')
      .setInputFiles({ name: 'chaos.tiletug.json', mimeType: 'application/json', buffer: Buffer.from(project) })
    await until(async () => (await menu.getAttribute('data-project')) !== before)
    const id = (await menu.getAttribute('data-project'))!
    this.address = `${server.address}p/${id}/loading`
    await until(async () => this.page.url() === this.address)
  }

  async step(): Promise<void> {
    const { name, make } = this.pick()
    this.report.steps.push(name)
    try {
      await make()
    } catch (error) {
      this.report.broken.push(`step ${this.report.steps.length}, ${name}: ${String(error).split('\n')[0]}`)
      await this.reload()
    }
  }

  /** Everything is restored; then all that was made must be there. */
  async end(): Promise<void> {
    await this.free()
    await this.serverUp()
    await this.home()
    await this.saved()
    await this.reload()
    const rows = this.rows()
    await this.check('the last change is there', async () => Number(await rows.inputValue()) === this.edit.value)
    await this.check(`all ${this.runs} runs are there`, async () => (await this.storedRuns()) === this.runs)
    await this.check('nothing waits', async () => (await this.page.getByText('could not be saved').count()) === 0)
    await this.check('pictures load', async () => (await this.settled().count()) > 3)
    for (const text of ['Asking for the feed…', 'Opening…', 'Opening what this browser keeps…'])
      await this.check(`nothing says “${text}”`, async () => (await this.page.getByText(text).count()) === 0)
  }

  private pick(): { name: string; make: () => Promise<void> } {
    const all: [string, () => Promise<void>][] = [
      ['simulate', () => this.simulate()],
      ['simulate', () => this.simulate()],
      ['drive', () => this.drive()],
      ['drive and cancel', () => this.cancelled()],
      ['edit', () => this.change()],
      ['edit', () => this.change()],
      ['edit', () => this.change()],
      ['scroll', () => this.scroll()],
      ['walk through the steps', () => this.walk()],
      ['reload', () => this.reload()],
      ['crash the tab', () => this.crash()],
      ['another tab', () => this.otherTab()],
      this.isUp ? ['stop the server', () => this.serverDown()] : ['start the server', () => this.serverUp()],
      ['start the server', () => this.serverUp()],
      ['freeze the server for a moment', () => this.freeze()],
      ['slow the server', () => this.slow()],
      this.isFull ? ['free storage', () => this.free()] : ['fill storage', () => this.fill()],
      ['free storage', () => this.free()],
    ]
    const [name, make] = all[Math.floor(draw(this.options.seed, 'gesture', this.draws++) * all.length)]!
    return { name, make }
  }

  private async newPage(): Promise<Page> {
    const page = await this.options.context.newPage()
    page.on('pageerror', (error) => this.report.broken.push(`uncaught: ${error.stack ?? error.message}`))
    return page
  }

  private rows(): Locator {
    return this.page.locator('input[data-path="/loading/ahead/amount"]')
  }

  private settled(): Locator {
    return this.page.locator('.tt-glass .tt-slot[data-stage="settled"]')
  }

  private button(name: string): Locator {
    return this.page.getByRole('button', { name, exact: true })
  }

  /** The number of the latest run, as the strip says it; 0: there is none. */
  private async latest(): Promise<number> {
    const text = await this.page.getByRole('region', { name: 'Strip' }).innerText()
    return Number(/run (\d+)/.exec(text)?.[1] ?? 0)
  }

  private async simulate(): Promise<void> {
    await this.home()
    await this.idle()
    await this.button('Simulate').click()
    const failed = this.page.getByText('The simulation failed')
    await until(async () => (await this.latest()) > this.runs || (await failed.count()) > 0)
    // Without the server a worker that was never loaded cannot be; with it nothing may fail.
    if ((await this.latest()) > this.runs) this.runs++
    else if (this.isUp) throw new Error(await failed.innerText())
  }

  private async drive(): Promise<void> {
    if (!this.isUp) return
    await this.home()
    await this.idle()
    await this.button('▶ Drive live').click()
    await until(async () => (await this.latest()) > this.runs)
    this.runs++
  }

  private async cancelled(): Promise<void> {
    await this.home()
    await this.idle()
    await this.button('▶ Drive live').click()
    const cancel = this.button('Cancel')
    const failed = this.page.getByText('The device could not start')
    await until(async () => (await cancel.count()) > 0 || (await failed.count()) > 0)
    if ((await cancel.count()) > 0) await cancel.click({ timeout: 2000 }).catch(() => undefined)
    const nothing = this.page.getByText('there is nothing to keep')
    await until(
      async () => (await this.latest()) > this.runs || (await nothing.count()) > 0 || (await failed.count()) > 0,
    )
    if ((await this.latest()) > this.runs) this.runs++
    if ((await nothing.count()) > 0) await this.page.getByRole('button', { name: 'Close alert' }).last().click()
  }

  private async change(): Promise<void> {
    await this.home()
    const value = 1 + Math.floor(draw(this.options.seed, 'gesture', this.draws++) * 11)
    await this.rows().fill(String(value))
    await this.page.keyboard.press('Enter')
    // A key that is pressed next is for the page, and not one more digit.
    await this.rows().blur()
    if (value !== this.edit.value) this.edit = { value, before: this.edit.value, at: performance.now() }
  }

  private async scroll(): Promise<void> {
    await this.home()
    await this.page.locator('.tt-glass').focus()
    for (let i = 0; i < 3; i++) await this.page.keyboard.press('PageDown')
  }

  private async walk(): Promise<void> {
    for (const key of '12456') await this.page.keyboard.press(key)
    await this.home()
  }

  /** A change of a moment ago is written as the page is left: it is there. */
  private async reload(): Promise<void> {
    // Without room, and without a server, a page that is reloaded would lose what waits in it: a person is asked first.
    await this.free()
    await this.serverUp()
    await this.saved()
    await this.page.goto(this.address)
    await this.check(
      'the change is there after a reload',
      async () => Number(await this.rows().inputValue()) === this.edit.value,
    )
  }

  /** Nothing is written when a tab crashes: what is older than a second is there. */
  private async crash(): Promise<void> {
    await this.free()
    await this.serverUp()
    await this.waitsForNothing()
    const { value, before, at } = this.edit
    const isOld = performance.now() - at > keptAfterMs
    const crashed = this.page.waitForEvent('crash', { timeout: patienceMs })
    await this.page.goto('chrome://crash').catch(() => undefined)
    await crashed
    await this.page.close()
    this.page = await this.newPage()
    await this.page.goto(this.address)
    await this.rows().waitFor({ timeout: patienceMs })
    const found = Number(await this.rows().inputValue())
    if (found !== value && (isOld || found !== before))
      this.report.broken.push(`after a crash: ${found} rows ahead instead of ${value}`)
    if (found !== value) this.edit = { value: found, before: found, at: 0 }
  }

  /** Another tab looks at the same project and goes away; it changes nothing. */
  private async otherTab(): Promise<void> {
    if (!this.isUp) return
    const other = await this.newPage()
    await other.goto(this.address)
    await other.locator('#project-menu').waitFor({ timeout: patienceMs })
    await other.reload()
    await other.close()
  }

  private async serverDown(): Promise<void> {
    await this.options.server.stop()
    this.isUp = false
  }

  private async serverUp(): Promise<void> {
    await this.options.server.start()
    this.isUp = true
  }

  private async freeze(): Promise<void> {
    this.options.server.freeze()
    await this.change()
    await this.scroll()
    this.options.server.thaw()
  }

  /** The server runs in short turns only. */
  private async slow(): Promise<void> {
    for (let turn = 0; turn < 10; turn++) {
      this.options.server.freeze()
      await this.page.evaluate(() => new Promise((resolve) => setTimeout(resolve, 100)))
      this.options.server.thaw()
      await this.page.evaluate(() => new Promise((resolve) => setTimeout(resolve, 30)))
    }
  }

  private async fill(): Promise<void> {
    this.isFull = true
    await fillStorage(this.page)
  }

  private async free(): Promise<void> {
    this.isFull = false
    await this.page.evaluate(
      () =>
        new Promise((resolve) => {
          const request = indexedDB.deleteDatabase('filler')
          request.onsuccess = request.onerror = resolve
        }),
    )
  }

  /** Loading, where the strip and the settings are. */
  private async home(): Promise<void> {
    await this.page.locator('body').press('3')
    await this.rows().waitFor({ timeout: patienceMs })
  }

  /** Nothing is under way on the device. */
  private async idle(): Promise<void> {
    await until(async () => (await this.button('Simulate').isEnabled()) && (await this.button('Cancel').count()) === 0)
  }

  private async waitsForNothing(): Promise<void> {
    await until(async () => (await this.page.getByText('could not be saved').count()) === 0)
  }

  private async saved(): Promise<void> {
    await this.waitsForNothing()
    await this.page.getByText('Saved in this browser').waitFor({ timeout: patienceMs })
  }

  private async check(what: string, holds: () => Promise<boolean>): Promise<void> {
    await until(holds).catch(() => this.report.broken.push(`not so: ${what}`))
  }

  private storedRuns(): Promise<number> {
    const project = /\/p\/([^/]+)/.exec(this.address)![1]!
    return this.page.evaluate(async (id) => {
      const open = indexedDB.open('tile-tug')
      await new Promise((resolve) => (open.onsuccess = resolve))
      const count = open.result.transaction('runs').objectStore('runs').index('project').count(id)
      await new Promise((resolve) => (count.onsuccess = resolve))
      open.result.close()
      return count.result
    }, project)
  }
}

/** Waits for a condition; throws when it hangs. */
async function until(holds: () => Promise<boolean>): Promise<void> {
  const end = performance.now() + patienceMs
  while (!(await holds().catch(() => false))) {
    if (performance.now() > end) throw new Error(`it took longer than ${patienceMs / 1000} s`)
    await new Promise((resolve) => setTimeout(resolve, 50))
  }
}

/** Takes all the room that there is, as other pages of the same origin would. */
export function fillStorage(page: Page): Promise<void> {
  return page.evaluate(async () => {
    const open = indexedDB.open('filler')
    open.onupgradeneeded = () => open.result.createObjectStore('bytes', { autoIncrement: true })
    await new Promise((resolve) => (open.onsuccess = resolve))
    for (let size = 4_000_000; size > 1000;) {
      const part = crypto.getRandomValues(new Uint8Array(Math.min(size, 65_536)))
      const parts = Array.from({ length: Math.ceil(size / part.length) }, (_, i) =>
        part.map((each) => each ^ (i % 256)),
      )
      const done = await new Promise<boolean>((resolve) => {
        const put = open.result.transaction('bytes', 'readwrite')
        put.objectStore('bytes').put(parts)
        put.oncomplete = () => resolve(true)
        put.onabort = () => resolve(false)
      })
      if (!done) size /= 4
    }
    open.result.close()
  })
}
