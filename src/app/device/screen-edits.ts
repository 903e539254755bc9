import type { Raw } from '../../core/project/parse.ts'
import type { Project } from '../../core/project/types.ts'
import { currentProject, edit } from '../store/project-store.ts'

/** A screen for the folder of pictures that was named when the server was started. */
export const addFolder = [
  {
    op: 'add' as const,
    path: '/screens/-',
    value: {
      id: 'folder',
      name: 'Your folder',
      feed: { source: { type: 'origin', feed: 'folder' }, key: '/id' },
      layout: { columns: 2, gapDp: 6, paddingDp: 8 },
      cells: [
        {
          arrangement: 'picture-only',
          height: { type: 'content' },
          slots: [
            {
              id: 'main',
              address: { type: 'template', template: '{+photo}?width={widthPx}&height={heightPx}' },
              size: { type: 'aspect', ratio: 1 },
            },
          ],
        },
      ],
    },
  },
]

/** Adds an empty screen and returns its number. */
export function addScreen(project: Project): number {
  const id = freeId(project, 'screen')
  const value = { id, name: `Screen ${project.screens.length + 1}`, cells: [{ slots: [{ id: 'main' }] }] }
  edit('add a screen', [{ op: 'add', path: '/screens/-', value }])
  return project.screens.length
}

/** Adds a copy of a screen behind it and returns its number. Both share one list of items. */
export function duplicateScreen(project: Project, at: number): number {
  const { id, name } = project.screens[at]!
  const file = (currentProject()!.raw.screens as Raw[])[at]!
  const value = { ...file, id: freeId(project, id), name: `${name || id} (copy)` }
  edit('duplicate a screen', [{ op: 'add', path: `/screens/${at + 1}`, value }])
  return at + 1
}

export function renameScreen(at: number, name: string): void {
  edit('rename a screen', [{ op: 'replace', path: `/screens/${at}/name`, value: name }])
}

/** Removes a screen; a project keeps at least one. */
export function removeScreen(project: Project, at: number): void {
  if (project.screens.length > 1) edit('remove a screen', [{ op: 'remove', path: `/screens/${at}` }])
}

function freeId(project: Project, wanted: string): string {
  const taken = new Set(project.screens.map(({ id }) => id))
  for (let n = 2; ; n++) if (!taken.has(`${wanted}-${n}`)) return `${wanted}-${n}`
}
