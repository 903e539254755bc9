import { useState } from 'react'
import { useDevice } from '../device/device-store.ts'
import { edit, useProject } from '../store/project-store.ts'
import { kindOf } from '../feed/kind-of.ts'
import { useSample } from '../feed/use-items.ts'
import { PictureCell } from './PictureCell.tsx'
import { Chip } from '../controls/Chip.tsx'

/** How one picture is placed and arrives: the cell in all its stages, and the settings that shape it. */
export default function CellStep() {
  const { project } = useProject()!
  const chosen = useDevice(({ screen }) => screen)
  const [picked, setPicked] = useState<number | null>(null)
  const [slot, setSlot] = useState(0)
  const number = Math.min(chosen, project.screens.length - 1)
  const screen = project.screens[number]!
  const { item } = useSample(screen)
  // Until a kind is picked, it is that of the sample item.
  const cell = Math.min(picked ?? kindOf(screen, item), screen.cells.length - 1)
  const { slots } = screen.cells[cell]!
  const chips = screen.cells.flatMap((each, k) =>
    each.slots.map((one, s) => ({
      k,
      s,
      name: screen.cells.length > 1 ? `${each.kind === '*' ? 'all other kinds' : each.kind} · ${one.id}` : one.id,
    })),
  )
  const head = (
    <div className="tt-cell-head">
      <h1>Cell{slots.length > 0 ? ` · “${slots[Math.min(slot, slots.length - 1)]!.id}”` : ''}</h1>
      {chips.length > 1 &&
        chips.map(({ k, s, name }) => (
          <Chip
            key={`${k} ${s}`}
            aria-pressed={k === cell && s === slot}
            onClick={() => {
              setPicked(k)
              setSlot(s)
            }}
          >
            {name}
          </Chip>
        ))}
      <Chip
        data-explain="One more picture in this kind of cell"
        disabled={slots.length >= 8}
        onClick={() => {
          edit('slot', [
            {
              op: 'add',
              path: `/screens/${number}/cells/${cell}/slots/-`,
              value: { id: `picture ${slots.length + 1}`, address: slots.at(-1)?.address, size: slots.at(-1)?.size },
            },
          ])
          setPicked(cell)
          setSlot(slots.length)
        }}
      >
        + picture
      </Chip>
      {slots.length > 1 && (
        <Chip
          onClick={() =>
            edit('slot', [
              { op: 'remove', path: `/screens/${number}/cells/${cell}/slots/${Math.min(slot, slots.length - 1)}` },
            ])
          }
        >
          remove this picture
        </Chip>
      )}
    </div>
  )
  return (
    <div className="tt-step">
      {slots.length > 0 ? (
        <PictureCell
          key={number}
          head={head}
          project={project}
          screen={screen}
          number={number}
          kind={cell}
          slotNumber={Math.min(slot, slots.length - 1)}
        />
      ) : (
        <>
          {head}
          <p className="tt-card">
            This kind of cell has no picture slot. Give it one in the project file, under /screens/{number}/cells/{cell}
            /slots.
          </p>
        </>
      )}
    </div>
  )
}
