import patches, { type Operation } from 'fast-json-patch'
import type { Raw } from '../../core/project/parse.ts'
import { currentProject, edit, showVariant, notify } from './project-store.ts'

/** Turns the differences from an earlier state of the file into a variant, and the file back to that state. */
export function keepAsVariant(before: Raw, name: string): void {
  const state = currentProject()
  if (!state) return
  const patch = patches.compare(before, state.raw).filter(({ path }) => !path.startsWith('/variants'))
  if (patch.length === 0) {
    notify('Nothing has changed since that run: there is nothing to keep as a variant.')
    return
  }
  const variants = [...((state.raw.variants as unknown[] | undefined) ?? []), { name, when: null, patch }]
  edit('keep as a variant', [
    ...patches.compare(state.raw, before).filter(({ path }) => !path.startsWith('/variants')),
    { op: 'replace', path: '/variants', value: variants },
  ])
  showVariant(name)
}

/** Keeps a change as a variant, without making it. */
export function keepPatchAsVariant(name: string, patch: Operation[]): void {
  const state = currentProject()
  if (!state) return
  const taken = new Set(state.project.variants.map((each) => each.name))
  let free = name.slice(0, 200)
  for (let n = 2; taken.has(free); n++) free = `${name.slice(0, 190)} ${n}`
  const written = (state.raw.variants as unknown[] | undefined) ?? []
  edit('keep as a variant', [
    { op: 'replace', path: '/variants', value: [...written, { name: free, when: null, patch }] },
  ])
}

let flippedTo: string | null = null

/** Flips between the file as it is and the variant that was shown last, or the first. */
export function flipVariant(): void {
  const state = currentProject()
  if (!state) return
  if (state.variant !== null) {
    flippedTo = state.variant
    showVariant(null)
    return
  }
  const names = state.project.variants.map(({ name }) => name)
  const next = flippedTo !== null && names.includes(flippedTo) ? flippedTo : names[0]
  if (next === undefined)
    notify('This project has no variant yet. Keep what you change as one: the variant chip on the device does that.')
  else showVariant(next)
}
