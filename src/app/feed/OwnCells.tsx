import { useMemo } from 'react'
import { textAt, valueAt } from '../../core/feed/json-pointer.ts'
import type { Item, Screen } from '../../core/project/types.ts'
import { currentProject, edit } from '../store/project-store.ts'
import { Chip } from '../controls/Chip.tsx'

/** Most kinds that are offered, the commonest first. */
const offered = 8

interface OwnCellsProps {
  screen: Screen
  number: number
  /** The kind of cell that the sample item has: a new one begins as a copy of it. */
  kind: number
  items: readonly Item[]
}

/** Kinds of item that have no cell of their own yet: each can be given one. */
export function OwnCells({ screen, number, kind, items }: OwnCellsProps) {
  const pointer = screen.feed.kind
  const kinds = useMemo(() => {
    const counts = new Map<string, number>()
    if (pointer !== null)
      for (const item of items)
        counts.set(textAt(item, pointer) ?? '', (counts.get(textAt(item, pointer) ?? '') ?? 0) + 1)
    return [...counts].sort((a, b) => b[1] - a[1])
  }, [items, pointer])
  const without = kinds.filter(([name]) => name !== '' && !screen.cells.some((cell) => cell.kind === name))
  if (pointer === null || without.length === 0) return null
  // The file's own text is copied, so that whatever follows defaults and sets goes on following them.
  const give = (name: string) => {
    const raw = currentProject()!.raw
    const written = valueAt(raw, `/screens/${number}/cells`)
    const cells = Array.isArray(written) ? (written as Record<string, unknown>[]) : [{}]
    edit('a cell of its own', [
      { op: 'add', path: `/screens/${number}/cells`, value: [...cells, { ...cells[kind], kind: name }] },
    ])
  }
  return (
    <p className="tt-source-line" aria-label="Kinds of item">
      Kinds at {pointer} without a cell of their own:
      {without.slice(0, offered).map(([name, count]) => (
        <Chip key={name} data-explain="Its cell begins as a copy of the one that is shown" onClick={() => give(name)}>
          give “{name}” one ({count})
        </Chip>
      ))}
      {without.length > offered && <span className="tt-quiet">and {without.length - offered} more</span>}
    </p>
  )
}
