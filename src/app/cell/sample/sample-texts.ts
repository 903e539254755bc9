import type { Cell, Item } from '../../../core/project/types.ts'

/** How the texts of the sample are set: as the item has them, or as other items may. */
export type SampleTexts = 'own' | 'long' | 'missing' | 'right-to-left'
export const sampleTexts: readonly { is: SampleTexts; name: string }[] = [
  { is: 'own', name: 'its own texts' },
  { is: 'long', name: 'long' },
  { is: 'missing', name: 'missing' },
  { is: 'right-to-left', name: 'right to left' },
]

const times = 8
const rightToLeft = 'אריח מזוגג מן הכבשן הישן'

/** The item with its texts changed; everything else stays. Fields deeper than the first level stay too. */
export function withTexts(item: Item, cell: Cell, is: SampleTexts): Item {
  if (is === 'own') return item
  const changed: Item = { ...item }
  for (const { at } of cell.texts) {
    const name = at.slice(1)
    const value = changed[name]
    if (is === 'missing') delete changed[name]
    else if (is === 'right-to-left') changed[name] = rightToLeft
    else changed[name] = Array.from({ length: times }, () => String(value ?? 'text')).join(' ')
  }
  return changed
}
