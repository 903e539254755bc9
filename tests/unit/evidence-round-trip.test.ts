import { describe, expect, it } from 'vitest'
import { feedAddresses } from '../../src/core/evidence/feed-addresses.ts'
import { fitWorld } from '../../src/core/evidence/fitted-project.ts'
import { importRun } from '../../src/core/evidence/import-run.ts'
import type { Gesture } from '../../src/core/evidence/recover-gesture.ts'
import { knownItems } from '../../src/core/feed/known-items.ts'
import { metricIds } from '../../src/core/profile/figures/metric-definitions.ts'
import { isShown, type Facts } from '../../src/core/profile/facts/facts.ts'
import { networkPresets, policyPresets } from '../../src/core/project/presets.ts'
import type { Project } from '../../src/core/project/types.ts'
import { applyPatch } from '../../src/core/project/patch.ts'
import { parseProject } from '../../src/core/project/parse.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { eventsText, filledProject, harText, profileRun, readEvents, readHar, topOf } from '../support/evidence.ts'

const policies: { name: string; values: object }[] = [
  ...policyPresets.slice(0, 5),
  { name: 'Never cancels', values: { cancel: { when: 'never' }, ahead: { amount: 0 } } },
]
const cases = policies.flatMap((policy) => networkPresets.map((network) => ({ policy, network })))

describe('24 runs as HAR and app events, imported again', () => {
  it.each(cases)('$policy.name on $network.name', ({ policy, network }) => {
    const { project, raw } = filledProject({ loading: policy.values, network: network.values })
    const original = profileRun(simulate(project).log)
    const { log, sources } = importRun(
      [readHar(harText(original)), readEvents(eventsText(original.facts.log))],
      new Map(),
      { project: 'x', screen: 'wall' },
    )
    expect(sources.map(({ skipped, unknownSizes }) => [skipped, unknownSizes])).toEqual([
      [0, 0],
      [0, 0],
    ])
    const again = profileRun(log)
    const known = metricIds.filter((id) => again.metrics[id] !== null)
    expect(known.length).toBeGreaterThanOrEqual(original.facts.exposures.some(isShown) ? 55 : 40)
    for (const id of known) expect([id, again.metrics[id]], id).toEqual([id, expect.closeTo(original.metrics[id]!, 5)])
    for (const { id, ok } of again.checks) expect([id, ok]).toEqual([id, id === 'bytes' ? true : null])

    const screen = project.screens[0]!
    const feed = feedAddresses(project, screen, knownItems(screen.feed)!)
    const world = fitWorld(again.facts, { raw, project, screen, feed })
    const fit = world.raw.network as Project['network']
    const isFitted = (path: string) => world.fitted.some((each) => each.path === path)
    if (isFitted('/network/rttMs')) expect(Math.abs(fit.rttMs / project.network.rttMs - 1)).toBeLessThan(0.15)
    if (isFitted('/network/downKbps')) expect(Math.abs(fit.downKbps / project.network.downKbps - 1)).toBeLessThan(0.2)
    // On a link that carries anything in time, both can be found.
    if (project.network.downKbps > 1000) expect(isFitted('/network/rttMs') && isFitted('/network/downKbps')).toBe(true)
    expect(world.gesture?.from ?? 'none').toBe(original.facts.scrolls.length > 0 ? 'scrolls' : 'binds')
    expect(withinARow(original.facts, world.gesture!, 220)).toBeGreaterThanOrEqual(0.95)
  })
})

describe('what if it cancelled when a cell is recycled', () => {
  it.each(networkPresets.map(({ name, values }) => ({ name, values })))(
    'on $name, is found within 10 %, or 15 % on a link that carries hardly a picture',
    ({ values }) => {
      const { project, raw } = filledProject({
        loading: { cancel: { when: 'never' }, ahead: { amount: 0 } },
        network: values,
      })
      const { facts } = profileRun(simulate(project).log)
      const { log } = importRun([readEvents(eventsText(facts.log))], new Map(), { project: 'x', screen: 'wall' })
      const screen = project.screens[0]!
      const feed = feedAddresses(project, screen, knownItems(screen.feed)!)
      const world = fitWorld(profileRun(log).facts, { raw, project, screen, feed })
      const bytesOf = (file: typeof raw) => {
        const cancelling = applyPatch(file, [{ op: 'replace', path: '/loading/cancel/when', value: 'recycle' }])
        const parsed = cancelling.ok ? parseProject(cancelling.raw) : cancelling
        if (!parsed.ok) throw new Error(parsed.message)
        return profileRun(simulate(parsed.project).log).metrics['bytes.received']!
      }
      expect(Math.abs(bytesOf(world.raw) / bytesOf(raw) - 1)).toBeLessThan(values.downKbps > 1000 ? 0.1 : 0.15)
    },
  )
})

describe('a gesture without scroll events', () => {
  const { project } = filledProject({ network: networkPresets[1]!.values })
  const original = profileRun(simulate(project).log)
  const screen = project.screens[0]!
  const feed = feedAddresses(project, screen, knownItems(screen.feed)!)

  it('is recovered from binds within a row', () => {
    const lines = eventsText(original.facts.log).split('\n')
    const events = readEvents(lines.filter((line) => !line.includes('"scroll"')).join('\n'))
    const { facts } = profileRun(importRun([events], new Map(), { project: 'x', screen: 'wall' }).log)
    const { gesture } = fitWorld(facts, { ...filledProject({}), screen, feed })
    expect(gesture!.from).toBe('binds')
    expect(withinARow(original.facts, gesture!, 220)).toBeGreaterThanOrEqual(0.95)
  })

  it('is recovered from the order of addresses when nothing else is there, and says how far off it may be', () => {
    const { facts } = profileRun(
      importRun([readHar(harText(original), feed.all)], new Map(), { project: 'x', screen: 'wall' }).log,
    )
    const { gesture } = fitWorld(facts, { ...filledProject({}), screen, feed })
    expect(gesture!.from).toBe('order of addresses')
    expect(gesture!.uncertaintyDp).toBeGreaterThanOrEqual(220)
    const deepest = Math.max(...original.facts.scrolls.map(({ top }) => top / 1024))
    const reached = Math.max(...Array.from({ length: 60 }, (_, i) => topOf(gesture!.script.steps, i * 100)))
    // Looking ahead asks for rows that are not on screen yet.
    expect(Math.abs(reached - deepest)).toBeLessThan(3 * 220)
  })
})

/** The share of the run's frames at which a script has the list within a row of where it was. */
function withinARow({ scrolls }: Facts, { script, shiftMs }: Gesture, rowDp: number): number {
  if (scrolls.length === 0) return 1
  const near = scrolls.filter(({ t, top }) => Math.abs(topOf(script.steps, t / 1000 + shiftMs) - top / 1024) <= rowDp)
  return near.length / scrolls.length
}
