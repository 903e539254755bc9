import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { undoLast } from '../../src/app/store/history.ts'
import { addProject, currentProject, edit, set } from '../../src/app/store/project-store.ts'
import { flipVariant, keepAsVariant, keepPatchAsVariant } from '../../src/app/store/variants.ts'

const small = {
  format: 'tile-tug/project',
  version: 1,
  name: 'kiln',
  screens: [{ id: 'list', cells: [{ slots: [{}] }] }],
}
const names = () => currentProject()!.project.variants.map(({ name }) => name)
const slots = () => currentProject()!.project.loading.fetchSlots

beforeEach(async () => {
  vi.stubGlobal('navigator', {
    locks: { request: (_name: string, _options: object, held: (lock: object) => unknown) => held({}) },
  })
  await addProject(small, null)
})

describe('what has changed since a run', () => {
  it('becomes a variant that is shown, and the file is as it was then', async () => {
    const before = currentProject()!.raw
    const usual = slots()
    edit('slots', [{ op: 'add', path: '/loading', value: { fetchSlots: 3 } }])
    set('/seed', 44)
    keepAsVariant(before, 'three')
    expect(currentProject()!.variant).toBe('three')
    // With the variant: as it was changed. Without: as it was.
    expect([slots(), currentProject()!.project.seed]).toEqual([3, 44])
    const { variants, ...rest } = currentProject()!.raw as { variants: unknown[] }
    expect(rest).toEqual(before)
    expect(variants).toHaveLength(1)
    flipVariant()
    expect([currentProject()!.variant, slots()]).toEqual([null, usual])
    // One step back: neither the variant nor what it came of is lost.
    await undoLast()
    expect(names()).toEqual([])
    expect([slots(), currentProject()!.project.seed]).toEqual([3, 44])
  })

  it('is told to be nothing where nothing has, and variants of before are no change', () => {
    const before = currentProject()!.raw
    keepAsVariant(before, 'none')
    expect(names()).toEqual([])
    expect(currentProject()!.notice).toContain('Nothing has changed since that run')
    keepPatchAsVariant('one', [{ op: 'replace', path: '/seed', value: 9 }])
    keepAsVariant(before, 'none')
    expect(names()).toEqual(['one'])
  })
})

describe('a change that is kept as a variant without being made', () => {
  it('leaves the file as it is, and takes a name that is free', () => {
    const patch = [{ op: 'replace' as const, path: '/seed', value: 5 }]
    for (let n = 0; n < 3; n++) keepPatchAsVariant('five', patch)
    expect(names()).toEqual(['five', 'five 2', 'five 3'])
    expect(currentProject()!.project.seed).not.toBe(5)
    expect(currentProject()!.variant).toBeNull()
  })

  it('has a name that the schema takes, however long what it is called after is', () => {
    const long = 'slots '.repeat(80)
    for (let n = 0; n < 2; n++) keepPatchAsVariant(long, [{ op: 'replace', path: '/seed', value: n }])
    expect(new Set(names()).size).toBe(2)
    for (const name of names()) expect(name.length).toBeLessThanOrEqual(200)
  })
})

describe('the key that flips', () => {
  it('goes between the file and the variant that was shown last, or the first; without any it says how to have one', () => {
    flipVariant()
    expect(currentProject()!.notice).toContain('This project has no variant yet')
    for (const [name, seed] of [
      ['one', 11],
      ['two', 22],
    ] as const)
      keepPatchAsVariant(name, [{ op: 'add', path: '/seed', value: seed }])
    const seed = currentProject()!.project.seed
    flipVariant()
    expect([currentProject()!.variant, currentProject()!.project.seed]).toEqual(['one', 11])
    flipVariant()
    expect([currentProject()!.variant, currentProject()!.project.seed]).toEqual([null, seed])
    // One that is gone is not flipped to.
    edit('take away', [{ op: 'remove', path: '/variants/0' }])
    flipVariant()
    expect([currentProject()!.variant, currentProject()!.project.seed]).toEqual(['two', 22])
  })
})
