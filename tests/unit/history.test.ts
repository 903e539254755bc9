import { beforeEach, expect, it } from 'vitest'
import { addStep, forgetEditsOf, lastStep, redoLast, undoLast } from '../../src/app/store/history.ts'

let happened: string[]
const step = (name: string, project: string | null) => ({
  name,
  project,
  undo: () => void happened.push(`undo ${name}`),
  redo: () => void happened.push(`redo ${name}`),
})

beforeEach(async () => {
  happened = []
  while (lastStep()) await undoLast()
  addStep(step('clear', 'x'))
  await undoLast()
  happened = []
})

it('takes back what was done last first, does it again, and forgets what was taken back when something new is done', async () => {
  for (const name of ['a', 'b']) addStep(step(name, 'p'))
  await undoLast()
  await undoLast()
  await redoLast()
  addStep(step('c', 'p'))
  await redoLast()
  await undoLast()
  expect(happened).toEqual(['undo b', 'undo a', 'redo a', 'undo c'])
})

it('keeps what was deleted when another project is opened, twenty of it, and no change of the former one', async () => {
  for (let i = 0; i < 25; i++) addStep(step(`delete ${i}`, null))
  addStep(step('change', 'p'))
  forgetEditsOf((project) => project !== 'q')
  for (let i = 0; i < 30; i++) await undoLast()
  expect(happened).toEqual(Array.from({ length: 20 }, (_, i) => `undo delete ${24 - i}`))
})
