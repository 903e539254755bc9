import { noItems } from '../core/feed/known-items.ts'
import type { Parsed, Raw } from '../core/project/parse.ts'
import { parseProjectText } from '../core/project/parse-text.ts'
import type { Item, Project, Screen, Visit } from '../core/project/types.ts'
import { effectiveProject } from '../core/project/conditions.ts'
import { tooLong } from '../core/simulate/feed-check.ts'
import { screenOf, scriptOf } from '../core/simulate/simulate.ts'
import { visitOrder } from '../core/project/visits.ts'
import { badInput } from './fault.ts'
import { readItems } from './read-items.ts'
import { readText } from './read-text.ts'

/** Reads a project file as it was written, once it is known to be one; unknown fields are reported on stderr. */
export async function loadFile(file: string): Promise<Raw> {
  const outcome = parseProjectText(await readText(file))
  if (!outcome.ok) throw badInput(`${file}: ${outcome.message}`)
  for (const warning of outcome.warnings) process.stderr.write(`${file}: ${warning}\n`)
  return outcome.raw
}

/** Reads and parses a project file, with the variants that apply by themselves and the one that is named. */
export async function loadProject(file: string, variant: string | undefined): Promise<Parsed> {
  const effective = effectiveProject(await loadFile(file), variant ?? null)
  if (!effective.ok) throw badInput(`${file}: ${effective.message}`)
  for (const name of effective.byCondition)
    process.stderr.write(`${file}: the variant "${name}" applies, its condition holds\n`)
  return effective
}

export function pickScreen(file: string, project: Project, id: string | undefined): Screen {
  const screen = named(file, '--screen', () => screenOf(project, id))
  const long = tooLong(screen.feed)
  if (long !== null) throw badInput(`${file}: screen "${screen.id}", ${long}`)
  return screen
}

export function pickScript(file: string, project: Project, name: string | undefined): string {
  return named(file, '--script', () => scriptOf(project, name)).name
}

export function pickVisits(text: string): Visit[] {
  const visits = text.split(',')
  for (const visit of visits)
    if (!(visitOrder as readonly string[]).includes(visit))
      throw badInput(
        `--visits: found "${visit}", allowed: ${visitOrder.join(', ')} in any selection, separated by commas`,
      )
  return visitOrder.filter((visit) => visits.includes(visit))
}

export function wholeNumber(option: string, text: string, min: number, max: number): number {
  const value = Number(text)
  if (text.trim() === '' || !Number.isInteger(value) || value < min || value > max)
    throw badInput(`${option}: found "${text}", allowed: a whole number from ${min} to ${max}`)
  return value
}

/** The items of a feed that the project names but does not hold; null when a simulation knows them itself. */
export async function outsideItems(file: string, screen: Screen): Promise<readonly Item[] | null> {
  if (screen.feed.source.type === 'file') return readItems(file, screen.feed.source.name)
  const reason = noItems(screen.feed)
  if (reason !== null) throw badInput(`${file}: screen "${screen.id}", /feed/source: ${reason}`)
  return null
}

function named<T>(file: string, option: string, find: () => T): T {
  try {
    return find()
  } catch (error) {
    throw badInput(`${file}: ${option}: ${(error as Error).message}`)
  }
}
