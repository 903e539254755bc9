import { mostItems } from './large-items.ts'
import type { Cell, Project, Slot } from './types.ts'

/** A problem at a place in a project: what was found there, and what is allowed. */
export interface Misfit {
  at: string
  found: unknown
  allowed: string
}

/** Rules over several fields: names that must be unique, names that must exist, ends after beginnings. */
export function crossCheck(project: Project): Misfit | null {
  return (
    checkNames(project) ??
    first(project.screens, ({ feed }, s) => checkRows(feed, s)) ??
    first(project.screens, ({ cells }, s) =>
      first(cells, (cell, c) => checkCell(project, cell, `/screens/${s}/cells/${c}`)),
    ) ??
    first(project.budgets, (budget, i) =>
      budget.min === undefined && budget.max === undefined
        ? { at: `/budgets/${i}`, found: budget, allowed: 'a budget with min, max or both' }
        : null,
    ) ??
    first(project.network.offline, ({ fromMs, toMs }, i) =>
      toMs < fromMs
        ? { at: `/network/offline/${i}/toMs`, found: toMs, allowed: `a number from fromMs, ${fromMs}` }
        : null,
    ) ??
    first(project.network.faults, ({ fromMs, toMs }, i) =>
      toMs !== null && toMs < fromMs
        ? { at: `/network/faults/${i}/toMs`, found: toMs, allowed: `a number from fromMs, ${fromMs}, or null` }
        : null,
    )
  )
}

function first<T>(list: readonly T[], check: (each: T, index: number) => Misfit | null): Misfit | null {
  for (const [index, each] of list.entries()) {
    const misfit = check(each, index)
    if (misfit) return misfit
  }
  return null
}

function duplicateIn(list: readonly string[], at: (index: number) => string, what: string): Misfit | null {
  const index = list.findIndex((name, i) => list.indexOf(name) !== i)
  return index < 0 ? null : { at: at(index), found: list[index], allowed: `a ${what} that no other has` }
}

const namesOf = (list: readonly { name: string }[]) => list.map(({ name }) => name)

function checkNames({ screens, scripts, script, assets, variants }: Project): Misfit | null {
  const screenIds = screens.map(({ id }) => id)
  const scriptNames = namesOf(scripts)
  const found =
    duplicateIn(screenIds, (i) => `/screens/${i}/id`, 'screen id') ??
    duplicateIn(scriptNames, (i) => `/scripts/${i}/name`, 'script name') ??
    duplicateIn(namesOf(assets), (i) => `/assets/${i}/name`, 'asset name') ??
    duplicateIn(namesOf(variants), (i) => `/variants/${i}/name`, 'variant name')
  if (found || script === null || scriptNames.includes(script)) return found
  return { at: '/script', found: script, allowed: `the name of a script: ${scriptNames.join(' | ')}` }
}

function checkRows({ source, repeat }: Project['screens'][number]['feed'], screen: number): Misfit | null {
  if (source.type !== 'inline') return null
  const count = source.items.length
  if (count * repeat.times <= mostItems) return null
  return {
    at: `/screens/${screen}/feed/repeat/times`,
    found: repeat.times,
    allowed: `at most ${Math.floor(mostItems / count)}: a list has ${mostItems} items at most, and this one has ${count} already`,
  }
}

function checkCell(project: Project, { slots }: Cell, at: string): Misfit | null {
  const ids = slots.map(({ id }) => id)
  return (
    duplicateIn(ids, (i) => `${at}/slots/${i}/id`, 'slot id') ??
    first(slots, (slot, i) => checkSlot(project, slot, `${at}/slots/${i}`))
  )
}

function checkSlot({ pictures, assets }: Project, slot: Slot, at: string): Misfit | null {
  const sets = Object.keys(pictures.sets)
  if (slot.use !== null && !sets.includes(slot.use))
    return {
      at: `${at}/use`,
      found: slot.use,
      allowed: `a set of /pictures/sets${sets.length ? `: ${sets.join(' | ')}` : ', which has none'}`,
    }
  return first(Object.entries(slot.stages), ([stage, look]) => {
    const { visual } = look as { visual?: { type: string; asset?: string } }
    if (visual?.type !== 'picture' || namesOf(assets).includes(visual.asset!)) return null
    return { at: `${at}/stages/${stage}/visual/asset`, found: visual.asset, allowed: 'the name of one of /assets' }
  })
}
