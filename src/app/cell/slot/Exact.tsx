import type { Slot } from '../../../core/project/types.ts'
import { settingAt } from '../../../core/project/settings-index.ts'
import { Numbers } from '../../controls/Numbers.tsx'
import { set } from '../../store/project-store.ts'

type Four = Slot['cornersDp']

const edges = ['top', 'right', 'bottom', 'left'] as const
const corners = ['top left', 'top right', 'bottom right', 'bottom left'] as const

/** Size, corners, insets and the point that stays in view, to the digit. */
export function Exact({ slot, path }: { slot: Slot; path: string }) {
  const { size, position } = slot
  const four = (names: readonly string[], values: Four, at: string) =>
    names.map((name, i) => ({
      name,
      value: values[i]!,
      onChange: (next: number) => set(`${path}/${at}`, values.with(i, next)),
    }))
  const sizeNumber = (name: string, key: string, value: number) => ({
    name,
    value,
    onChange: (next: number) => set(`${path}/size`, { ...size, [key]: next }),
  })
  const sizes = () => {
    switch (size.type) {
      case 'fixed':
        return [sizeNumber('width', 'widthDp', size.widthDp), sizeNumber('height', 'heightDp', size.heightDp)]
      case 'share':
        return [sizeNumber('of the cell', 'of', size.of)]
      case 'aspect':
        return [sizeNumber('width to height', 'ratio', size.ratio)]
      default:
        return []
    }
  }
  const ofSize = sizes()
  return (
    <>
      {ofSize.length > 0 && (
        <Numbers
          label="Size"
          explain="The frame of the slot"
          unit={size.type === 'fixed' ? 'dp' : undefined}
          numbers={ofSize}
        />
      )}
      <Numbers
        label="Each corner"
        explain={settingAt(`${path}/cornersDp`).explain}
        unit="dp"
        numbers={four(corners, slot.cornersDp, 'cornersDp')}
      />
      <Numbers
        label="Each inset"
        explain={settingAt(`${path}/insetDp`).explain}
        unit="dp"
        numbers={four(edges, slot.insetDp, 'insetDp')}
      />
      <Numbers
        label="Focus"
        explain="The point of the picture that stays in view when it is cropped: 0 is the left or the top, 1 the right or the bottom"
        numbers={(['across', 'down'] as const).map((name, i) => ({
          name,
          value: position[i]!,
          onChange: (next) => set(`${path}/position`, position.with(i, next)),
        }))}
      />
    </>
  )
}
