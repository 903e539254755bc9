import { describe, expect, it } from 'vitest'
import { differences } from '../../src/core/project/differences.ts'

const file = (more: object = {}) => ({
  format: 'tile-tug/project',
  version: 1,
  name: 'kiln',
  screens: [{ id: 'wall', name: 'Tile wall', cells: [{ slots: [{ id: 'main' }] }] }],
  ...more,
})
const slot = (options: object, ...others: object[]) =>
  file({ screens: [{ id: 'wall', name: 'Tile wall', cells: [{ slots: [{ id: 'main', ...options }, ...others] }] }] })

describe('what is set otherwise', () => {
  it('is reported by label and unit, one line a setting', () => {
    expect(
      differences(
        file({ loading: { fetchSlots: 6, memoryMb: 32 } }),
        file({ loading: { fetchSlots: 4, memoryMb: 48 } }),
      ),
    ).toEqual(['Fetch slots: 6 → 4', 'Memory: 32 → 48 MB'])
    expect(differences(file({ network: { rttMs: 90 } }), file({ network: { rttMs: 20, name: 'Near' } }))).toContain(
      'Round trip: 90 → 20 ms',
    )
  })

  it('is nothing where a default is written out or left out', () => {
    expect(differences(file(), file({ loading: { fetchSlots: 6, cancel: { when: 'recycle' } } }))).toEqual([])
    expect(differences(file({ loading: { cancel: { when: 'never' } } }), file())).toEqual(['Let go: never → recycle'])
    expect(differences(file(), file({ loading: { startBelowDpPerS: 1500 } }))).toEqual(['Flicking: none → 1500 dp/s'])
    expect(differences(file(), file({ loading: { guard: false } }))).toEqual(['Stale guard: yes → no'])
  })

  it('names another kind of value by its kind, and says which slot where there are several', () => {
    expect(
      differences(slot({ transition: { type: 'fade', ms: 200 } }), slot({ transition: { type: 'none' } })),
    ).toEqual(['transition: fade → none'])
    expect(differences(slot({}, { id: 'face' }), slot({}, { id: 'face', fit: 'contain' }))[0]).toMatch(
      /^face, .*: cover → contain$/,
    )
  })

  it('reports lists that grew by their length, gestures as a whole, and names the screen where there are several', () => {
    const screens = (columns: number) => [
      { id: 'wall', name: 'Tile wall', layout: { columns }, cells: [{ slots: [{}] }] },
      { id: 'log', cells: [{ slots: [{}] }] },
    ]
    expect(differences(file({ screens: screens(3) }), file({ screens: screens(4) }))).toEqual([
      expect.stringMatching(/^Tile wall, Columns: 3 → 4/),
    ])
    const script = (ms: number) => ({ scripts: [{ name: 'a', steps: [{ do: 'wait', ms }] }] })
    expect(differences(file(script(1)), file(script(2)))).toEqual(['the gesture “a” differs'])
    expect(
      differences(file({ loading: { cleartextHosts: [] } }), file({ loading: { cleartextHosts: ['a.test'] } }))[0],
    ).toMatch(/: \[\] → \[a\.test\]$/)
  })

  it('compares files that no longer parse as they are', () => {
    expect(differences({ seed: 1 }, { seed: 2 })[0]).toMatch(/: 1 → 2$/)
  })
})
