import 'fake-indexeddb/auto'
import { expect, it } from 'vitest'
import { sweepName, database } from '../../src/app/store/database.ts'
import { currentSweep, followSweep, keepSweep } from '../../src/app/sweep/sweep-store.ts'

it('a sweep is shown again as it was kept, by an earlier version too: the settings as they are had a number', async () => {
  const row = (name: unknown) => JSON.stringify({ row: name, settings: [], seeds: 10, metrics: {}, tiny: {} })
  const varied = [{ path: '/loading/fetchSlots', values: [2, 4] }]
  for (const name of [-1, 'now']) {
    const project = `kept with ${name}`
    const value = { varied, of: 7, msEach: 3, rows: [row(name), row(0), row(1)] }
    await database.memory.put({ name: sweepName(project), value })
    await followSweep(project)
    expect(currentSweep()).toMatchObject({ project, varied, of: 7, msEach: 3 })
    expect([...currentSweep().rows].map(([key, each]) => [key, each.row])).toEqual([
      ['now', 'now'],
      [0, 0],
      [1, 1],
    ])
    await keepSweep()
    const kept = (await database.memory.get(sweepName(project)))!.value as { rows: string[] }
    expect(kept.rows.map((text) => (JSON.parse(text) as { row: unknown }).row)).toEqual(['now', 0, 1])
  }
})
