import type { Raw } from './parse.ts'
import type { Patch } from './patch.ts'
import { layer } from './resolve.ts'
import type { Project } from './types.ts'

/** One picture slot of the project, and where its value of a setting comes from. */
export interface SlotSource {
  /** Where the slot is in the project file. */
  path: string
  /** Names of the screen, kind of cell and slot on screen. */
  name: string
  from: 'slot' | 'set' | 'app'
  /** The named set that the slot uses. */
  set: string | null
}

interface RawSlot {
  path: string
  raw: Raw
}

/**
 * For every slot, whether a setting (a JSON Pointer within a slot, `/transition/ms`) is its own, its set’s or the
 * app’s.
 */
export function sourcesOf(raw: Raw, project: Project, setting: string): SlotSource[] {
  const { sets } = project.pictures
  return project.screens.flatMap((screen, s) =>
    screen.cells.flatMap((cell, c) =>
      cell.slots.map((slot, i) => {
        const path = `/screens/${s}/cells/${c}/slots/${i}`
        const kind = screen.cells.length > 1 ? [cell.kind === '*' ? 'all other kinds' : cell.kind] : []
        return {
          path,
          name: [screen.name || screen.id, ...kind, slot.id].join(' · '),
          from: sourceOf(at(raw, path + setting), slot.use === null ? undefined : sets[slot.use], setting),
          set: slot.use,
        }
      }),
    ),
  )
}

function sourceOf(own: unknown, set: object | undefined, setting: string): SlotSource['from'] {
  if (own !== undefined) return 'slot'
  return set !== undefined && at(set, setting) !== undefined ? 'set' : 'app'
}

/** A name for a new set that no set has yet. */
export function freeSetName(project: Project): string {
  let n = 1
  while (Object.hasOwn(project.pictures.sets, `set ${n}`)) n++
  return `set ${n}`
}

/** Renames a set, in the slots that use it too. The new name must be free. */
export function renameSet(raw: Raw, from: string, to: string): Patch {
  return [
    {
      op: 'replace',
      path: '/pictures/sets',
      value: Object.fromEntries(Object.entries(setsOf(raw)).map(([name, set]) => [name === from ? to : name, set])),
    },
    ...slotsOf(raw)
      .filter((slot) => slot.raw.use === from)
      .map(({ path }) => ({ op: 'replace' as const, path: `${path}/use`, value: to })),
  ]
}

/** Removes a set; the slots that use it look as before: they keep its values as their own. */
export function removeSet(raw: Raw, name: string): Patch {
  const { [name]: gone, ...others } = setsOf(raw)
  return [
    { op: 'replace', path: '/pictures/sets', value: others },
    ...slotsOf(raw)
      .filter((slot) => slot.raw.use === name)
      .map((slot) => ({
        op: 'replace' as const,
        path: slot.path,
        value: { ...layer(gone ?? {}, slot.raw), use: null },
      })),
  ]
}

/** The value at a pointer of plain names and positions, such as those of settings; undefined: nothing. */
const at = (value: unknown, pointer: string): unknown =>
  pointer
    .split('/')
    .slice(1)
    .reduce((inner, key) => (typeof inner === 'object' && inner !== null ? (inner as Raw)[key] : undefined), value)

const isObject = (value: unknown): value is Raw => typeof value === 'object' && value !== null && !Array.isArray(value)

function setsOf(raw: Raw): Record<string, Raw> {
  const sets = at(raw, '/pictures/sets')
  return isObject(sets) ? (sets as Record<string, Raw>) : {}
}

function slotsOf(raw: Raw): RawSlot[] {
  const lists = (value: unknown) => (Array.isArray(value) ? (value as Raw[]) : [])
  return lists(raw.screens).flatMap((screen, s) =>
    lists(screen.cells).flatMap((cell, c) =>
      lists(cell.slots).map((slot, i) => ({ path: `/screens/${s}/cells/${c}/slots/${i}`, raw: slot })),
    ),
  )
}
