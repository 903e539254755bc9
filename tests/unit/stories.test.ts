import { describe, expect, it } from 'vitest'
import { requestStory } from '../../src/core/profile/stories/stories.ts'
import { demoProfile } from '../support/demo-run.ts'

const { facts, ledger } = demoProfile

describe('stories', () => {
  it('follow every request of the demo in order, from wanted to its end', () => {
    for (const request of facts.requests) {
      const story = requestStory(facts, ledger, request.id)!
      const times = story.sentences.map(({ t }) => t)
      expect(times).toEqual([...times].sort((a, b) => a - b))
      expect(story.sentences[0]!.text).toMatch(/^wanted: (cell \d+ was bound in|row \d+ came near)/)
      expect(story.sentences.every(({ text }) => text.endsWith('.') && !/undefined|NaN|-1/.test(text))).toBe(true)
    }
    expect(requestStory(facts, ledger, 99_999)).toBeNull()
  })

  it('say how much had arrived when a transfer was cut off', () => {
    const cut = facts.transfers.find((each) => each.end === 'cut' && each.bytes > 0)!
    const text = requestStory(facts, ledger, cut.request)!
      .sentences.map((each) => each.text)
      .join(' ')
    expect(text).toContain(
      `cut off; ${Math.round((100 * cut.bytes) / cut.total!)} % of ${Math.round(cut.total! / 1000)} kB had arrived.`,
    )
    expect(text).toMatch(/cell \d+ was recycled\./)
  })
})
