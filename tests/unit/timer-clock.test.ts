import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { LiveClock } from '../../src/live/live-clock.ts'

beforeEach(() => vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'performance'] }))
afterEach(() => vi.useRealTimers())

describe('a real clock', () => {
  it('runs what is due in the order of its time, and of asking for one time, on one timer of the machine', () => {
    const clock = new LiveClock()
    const ran: string[] = []
    for (const [time, name] of [
      [30_000, 'c'],
      [10_000, 'a'],
      [10_000, 'b'],
      [30_000, 'd'],
    ] as const)
      clock.at(time, () => ran.push(`${name} ${clock.now() / 1000}`))
    expect(vi.getTimerCount()).toBe(1)
    vi.advanceTimersByTime(9)
    expect(ran).toEqual([])
    vi.advanceTimersByTime(1)
    expect(ran).toEqual(['a 10', 'b 10'])
    vi.advanceTimersByTime(20)
    expect(ran).toEqual(['a 10', 'b 10', 'c 30', 'd 30'])
    expect(vi.getTimerCount()).toBe(0)
  })

  it('never runs what was cancelled, first or not, nor anything once it has stopped', () => {
    const clock = new LiveClock()
    const ran: string[] = []
    const first = clock.at(5000, () => ran.push('first'))
    const later = clock.at(9000, () => ran.push('later'))
    clock.at(9000, () => ran.push('last'))
    clock.cancel(first)
    clock.cancel(later)
    clock.cancel(later)
    vi.advanceTimersByTime(8)
    expect(ran).toEqual([])
    vi.advanceTimersByTime(1)
    expect(ran).toEqual(['last'])
    clock.at(20_000, () => ran.push('never'))
    clock.stop()
    vi.advanceTimersByTime(100)
    expect(ran).toEqual(['last'])
    expect(vi.getTimerCount()).toBe(0)
  })

  it('leaves what is asked for meanwhile to the next turn, so that nobody can keep it to himself', () => {
    const clock = new LiveClock()
    let turns = 0
    const again = () => void (++turns < 100 && clock.at(clock.now(), again))
    clock.at(1000, again)
    clock.at(1000, () => expect(turns).toBe(1))
    vi.advanceTimersToNextTimer()
    expect(turns).toBe(1)
    vi.advanceTimersToNextTimer()
    expect(turns).toBe(2)
  })

  it('runs the rest when one of them throws', () => {
    const clock = new LiveClock()
    const ran: string[] = []
    clock.at(1000, () => {
      throw new Error('on purpose')
    })
    clock.at(1000, () => ran.push('the rest'))
    expect(() => vi.advanceTimersByTime(1)).toThrow('on purpose')
    vi.advanceTimersByTime(1)
    expect(ran).toEqual(['the rest'])
  })
})
