import { dequal } from 'dequal'
import type { Project, Slot } from './types.ts'

/** Settings of a slot that are about how its picture looks; all others are about which arrives, when, and how. */
const looks: readonly (keyof Slot)[] = [
  'size',
  'insetDp',
  'clip',
  'fit',
  'position',
  'cornersDp',
  'circle',
  'shadowDp',
  'shapeAt',
  'treatments',
]

/** Settings of a screen other than the looks and layout of its list. */
function restOf(project: Project, screen: string): unknown {
  return {
    ...project,
    // How the list is driven and judged, and the defaults, which every slot has merged by now.
    ...{ name: '', scripts: [], script: null, variants: [], budgets: [], pictures: null },
    device: { ...project.device, widthDp: 0, heightDp: 0, density: 0 },
    screens: project.screens
      .filter(({ id }) => id === screen)
      .map(({ cells, layout: { entrance }, ...rest }) => ({
        ...rest,
        entrance,
        cells: cells.map(({ slots, kind }) => ({
          kind,
          slots: slots.map((slot) =>
            Object.fromEntries(Object.entries(slot).filter(([name]) => !looks.includes(name as keyof Slot))),
          ),
        })),
      })),
  }
}

/**
 * Whether two states of a project differ for the list of a screen by nothing but its looks: what an app has loaded by
 * then it still has.
 */
export function differInLooksAlone(before: Project, after: Project, screen: string): boolean {
  return dequal(restOf(before, screen), restOf(after, screen))
}
