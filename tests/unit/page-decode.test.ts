import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { needsPage, pageDecode } from '../../src/live/page-decode.ts'
import type { Target } from '../../src/core/loading/rendition.ts'

/**
 * What a made-up browser does with a video: when it has a frame, how often it says so too early, whether it reports
 * frames that it draws.
 */
const browser = {
  hasEvents: true,
  early: 0,
  fails: null as Error | null,
  ends: 'loadeddata' as 'loadeddata' | 'error',
  duration: 2,
}
const asked: { size: unknown; atMs: number }[] = []
const released: string[] = []

class Video extends EventTarget {
  muted = false
  preload = ''
  duration = browser.duration
  videoWidth = 64
  videoHeight = 48
  /** The moment of the frame that would be drawn: it follows what is reported. */
  drawn = 0
  private at = 0
  private hearers: (() => void)[] = []
  private source = ''

  set src(url: string) {
    this.source = url
    queueMicrotask(() => this.dispatchEvent(new Event(browser.ends)))
    setImmediate(() => this.draw(0))
  }

  get src(): string {
    return this.source
  }

  set currentTime(seconds: number) {
    this.at = seconds
    queueMicrotask(() => this.dispatchEvent(new Event('seeked')))
    setImmediate(() => this.draw(seconds))
  }

  get currentTime(): number {
    return this.at
  }

  requestVideoFrameCallback(hear: () => void): void {
    this.hearers.push(hear)
  }

  private draw(seconds: number): void {
    this.drawn = seconds
    if (browser.hasEvents) for (const hear of this.hearers.splice(0)) hear()
  }

  removeAttribute(name: string): void {
    if (name === 'src') this.source = ''
  }
}

const video = new Blob(['kiln'], { type: 'video/webm' })
const target = (ms: number | null): Target => ({
  width: 32,
  height: 24,
  fit: 'cover',
  decodeAt: { type: 'slot' },
  making: [],
  moments: ms === null ? 'first' : { ms },
})

beforeEach(() => {
  Object.assign(browser, { tells: true, early: 0, fails: null, ends: 'loadeddata', duration: 2 })
  asked.length = released.length = 0
  vi.stubGlobal('HTMLVideoElement', Video)
  vi.stubGlobal('OffscreenCanvas', class Canvas extends EventTarget {})
  vi.stubGlobal('document', { createElement: () => new Video() })
  vi.stubGlobal('createImageBitmap', (drawn: Video, size: unknown) => {
    asked.push({ size, atMs: drawn.drawn * 1000 })
    if (browser.fails) return Promise.reject(browser.fails)
    if (asked.length <= browser.early)
      return Promise.reject(new DOMException('The image source is not usable.', 'InvalidStateError'))
    return Promise.resolve({ width: 32, height: 24 })
  })
  vi.spyOn(URL, 'createObjectURL').mockReturnValue('blob:kiln')
  vi.spyOn(URL, 'revokeObjectURL').mockImplementation((url) => void released.push(url))
})
afterEach(() => {
  vi.unstubAllGlobals()
  vi.restoreAllMocks()
  vi.useRealTimers()
})

describe('what only the page can decode', () => {
  it('are videos and vector pictures', () => {
    expect(['video/webm', 'image/svg+xml', 'image/png', 'image/gif'].map(needsPage)).toEqual([true, true, false, false])
  })

  it('is a poster at the moment that is wanted, within the video', async () => {
    await pageDecode(video, target(1500))
    await pageDecode(video, target(9000))
    expect(asked.map(({ atMs }) => Math.round(atMs))).toEqual([1500, 1999])
    expect(released).toEqual(['blob:kiln', 'blob:kiln'])
  })

  it('is the frame of the seek where the browser reports no frame that it draws', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
    browser.hasEvents = false
    let isDone = false
    const decoded = pageDecode(video, target(1500)).finally(() => (isDone = true))
    while (!isDone) {
      await new Promise((resolve) => setImmediate(resolve))
      await vi.advanceTimersByTimeAsync(100)
    }
    await decoded
    expect(asked.map(({ atMs }) => Math.round(atMs))).toEqual([1500])
  })

  it('waits for a frame of which the browser says too early that it is there', async () => {
    browser.early = 3
    const { width, height } = await pageDecode(video, target(null))
    expect([width, height]).toEqual([64, 48])
    expect(asked.length).toBe(4)
    expect(new Set(asked.map(({ size }) => JSON.stringify(size))).size).toBe(1)
  })

  it('gives a frame up that never comes, and lets the file go', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'performance'] })
    browser.early = Infinity
    const outcome = pageDecode(video, target(null)).catch((error: Error) => error.name)
    await vi.advanceTimersByTimeAsync(11_000)
    expect(await outcome).toBe('InvalidStateError')
    expect(asked.length).toBeGreaterThan(100)
    expect(released).toEqual(['blob:kiln'])
  })

  it('asks once where the fault is another', async () => {
    browser.fails = new DOMException('too large', 'DataError')
    await expect(pageDecode(video, target(null))).rejects.toThrow('too large')
    expect(asked.length).toBe(1)
    browser.ends = 'error'
    await expect(pageDecode(video, target(null))).rejects.toThrow('no video that this browser can show')
    expect(asked.length).toBe(1)
    expect(released.length).toBe(2)
  })
})
