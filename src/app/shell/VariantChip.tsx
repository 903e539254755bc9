import Dropdown from 'react-bootstrap/Dropdown'
import type { Raw } from '../../core/project/parse.ts'
import { keepAsVariant, showVariant, useProject } from '../store/project-store.ts'
import { useRuns } from '../store/run-store.ts'

/** The variant that the device shows; the key V flips between it and the project as it is. */
export default function VariantChip() {
  const { project, variant } = useProject()!
  const last = useRuns().list.at(-1)
  const names = project.variants.map(({ name }) => name)
  return (
    <Dropdown>
      <Dropdown.Toggle className="tt-chip" id="variants" title="Named changes on the project. Key V flips between one and the project as it is.">{variant ?? 'as it is'}</Dropdown.Toggle>
      <Dropdown.Menu>
        <Dropdown.Item active={variant === null} onClick={() => showVariant(null)}>As it is</Dropdown.Item>
        {names.map((name) => <Dropdown.Item key={name} active={variant === name} onClick={() => showVariant(name)}>{name}</Dropdown.Item>)}
        {last && variant === null && (
          <>
            <Dropdown.Divider />
            <Dropdown.Item onClick={() => keepAsVariant(last.raw as Raw, `Variant ${names.length + 1}`)}>Keep what changed since run {last.number} as a variant</Dropdown.Item>
          </>
        )}
      </Dropdown.Menu>
    </Dropdown>
  )
}
