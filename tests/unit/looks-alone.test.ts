import { describe, expect, it } from 'vitest'
import { differInLooksAlone } from '../../src/core/project/looks-alone.ts'
import { parseProject, type Raw } from '../../src/core/project/parse.ts'

const slot = { address: { type: 'pointer', at: '/photo' }, size: { type: 'fixed', widthDp: 90, heightDp: 90 } }
const cell = { slots: [slot], texts: [{ at: '/title' }] }
const screen = { id: 'wall', cells: [cell], layout: { columns: 3 } }
const base: Raw = {
  format: 'tile-tug/project',
  version: 1,
  name: 'Looks',
  screens: [screen, { ...screen, id: 'other' }],
}

const projectOf = (raw: Raw) => {
  const outcome = parseProject(raw)
  if (!outcome.ok) throw new Error(outcome.message)
  return outcome.project
}
const withSlot = (more: object) => ({
  ...base,
  screens: [{ ...screen, cells: [{ ...cell, slots: [{ ...slot, ...more }] }] }],
})
const alike = (changed: Raw) => differInLooksAlone(projectOf(base), projectOf(changed), 'wall')

describe('two states of a project', () => {
  it.each<[string, Raw]>([
    ['nothing', base],
    ['corners', withSlot({ cornersDp: [20, 0, 0, 0] })],
    ['the size of a slot', withSlot({ size: { type: 'aspect', ratio: 2 } })],
    ['treatments', withSlot({ treatments: [{ type: 'grayscale', amount: 1 }] })],
    ['texts', { ...base, screens: [{ ...screen, cells: [{ ...cell, texts: [] }] }] }],
    ['columns', { ...base, screens: [{ ...screen, layout: { columns: 2, gapDp: 9 } }] }],
    ['the device, turned', { ...base, device: { widthDp: 823, heightDp: 411 } }],
    ['the defaults of looks', { ...base, pictures: { defaults: { shadowDp: 3 } } }],
    [
      'another screen',
      {
        ...base,
        screens: [screen, { ...screen, id: 'other', feed: { source: { type: 'inline', items: [{ id: 1 }] } } }],
      },
    ],
    ['a script', { ...base, scripts: [{ name: 'still', steps: [{ do: 'wait', ms: 9 }] }] }],
  ])('that differ in %s differ in looks alone', (_, changed) => expect(alike(changed)).toBe(true))

  it.each<[string, Raw]>([
    ['the address', withSlot({ address: { type: 'pointer', at: '/other' } })],
    ['how it arrives', withSlot({ transition: { type: 'none' } })],
    ['a stage', withSlot({ stages: { waiting: { visual: { type: 'skeleton' } } } })],
    ['the defaults of arrivals', { ...base, pictures: { defaults: { transition: { type: 'none' } } } }],
    [
      'one slot more',
      { ...base, screens: [{ ...screen, cells: [{ ...cell, slots: [slot, { ...slot, id: 'two' }] }] }] },
    ],
    [
      'the entrance of cells',
      { ...base, screens: [{ ...screen, layout: { columns: 3, entrance: { type: 'rise' } } }] },
    ],
    ['the feed', { ...base, screens: [{ ...screen, feed: { source: { type: 'inline', items: [{ id: 1 }] } } }] }],
    ['loading', { ...base, loading: { fetchSlots: 2 } }],
    ['the network', { ...base, network: { rttMs: 7 } }],
    ['the refresh rate', { ...base, device: { refreshHz: 120 } }],
    ['the seed', { ...base, seed: 9 }],
  ])('that differ in %s do not', (_, changed) => expect(alike(changed)).toBe(false))
})
