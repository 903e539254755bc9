import { describe, expect, it } from 'vitest'
import { parseProject, type Raw } from '../../src/core/project/parse.ts'
import { applyPatch } from '../../src/core/project/patch.ts'
import { freeSetName, removeSet, renameSet, sourcesOf } from '../../src/core/project/slot-sources.ts'

const file: Raw = {
  format: 'tile-tug/project',
  version: 1,
  name: 'Sets',
  pictures: {
    defaults: { fit: 'contain', transition: { ms: 300 } },
    sets: { 'a/b': { fit: 'fill', transition: { type: 'none' } }, 'set 1': {} },
  },
  screens: [
    {
      id: 'wall',
      feed: { source: { type: 'inline', items: [{ id: '1' }] } },
      cells: [
        { kind: 'tile', slots: [{ id: 'one' }, { id: 'two', use: 'a/b', transition: { ms: 50 } }] },
        { kind: '*', slots: [{ id: 'three', fit: 'cover' }] },
      ],
    },
    { id: 'plain', feed: { source: { type: 'inline', items: [] } } },
  ],
}

function read(raw: Raw) {
  const parsed = parseProject(raw)
  if (!parsed.ok) throw new Error(parsed.message)
  return { raw, project: parsed.project }
}

function changed(patch: ReturnType<typeof renameSet>) {
  const after = applyPatch(file, patch)
  if (!after.ok) throw new Error(after.message)
  return read(after.raw)
}

const wordOf = ({ raw, project }: ReturnType<typeof read>, setting: string) =>
  sourcesOf(raw, project, setting).map(({ name, from }) => `${name}: ${from}`)
const looks = ({ project }: ReturnType<typeof read>) =>
  project.screens.flatMap(({ cells }) => cells.flatMap(({ slots }) => slots.map((slot) => ({ ...slot, use: null }))))

describe('who says what a slot has', () => {
  it('is the slot before its set, and the set before the app; a slot that nobody wrote follows the app', () => {
    const project = read(file)
    expect(wordOf(project, '/fit')).toEqual([
      'wall · tile · one: app',
      'wall · tile · two: set',
      'wall · all other kinds · three: slot',
      'plain · main: app',
    ])
    expect(wordOf(project, '/transition/ms')[1]).toBe('wall · tile · two: slot')
    expect(wordOf(project, '/transition/type')[1]).toBe('wall · tile · two: set')
  })

  it('stays the same when a set is renamed, and its slots look the same when it is taken away', () => {
    const before = read(file)
    const renamed = changed(renameSet(file, 'a/b', 'quiet ~1'))
    expect(Object.keys(renamed.project.pictures.sets)).toEqual(['quiet ~1', 'set 1'])
    expect(renamed.project.screens[0]!.cells[0]!.slots[1]!.use).toBe('quiet ~1')
    expect(looks(renamed)).toEqual(looks(before))
    const without = changed(removeSet(file, 'a/b'))
    expect(Object.keys(without.project.pictures.sets)).toEqual(['set 1'])
    expect(looks(without)).toEqual(looks(before))
    expect(wordOf(without, '/fit')[1]).toBe('wall · tile · two: slot')
  })

  it('a new set takes a name that is free', () => {
    expect(freeSetName(read(file).project)).toBe('set 2')
    expect(freeSetName(changed(removeSet(file, 'set 1')).project)).toBe('set 1')
  })
})
