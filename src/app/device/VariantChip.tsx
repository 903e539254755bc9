import Dropdown from 'react-bootstrap/Dropdown'
import { conditions } from '../../core/project/conditions.ts'
import type { Raw } from '../../core/project/parse.ts'
import { NameField } from '../controls/NameField.tsx'
import { keepAsVariant } from '../store/variants.ts'
import { edit, showVariant, useProject } from '../store/project-store.ts'
import { useRuns } from '../store/run-store.ts'
import { MenuHeading, MenuItem } from '../controls/MenuItem.tsx'

/** The variant that the device shows; the key V flips between it and the project as it is. */
export default function VariantChip() {
  const { project, variant, byCondition } = useProject()!
  const last = useRuns().list.at(-1)
  const names = project.variants.map(({ name }) => name)
  const at = names.indexOf(variant ?? '')
  return (
    <Dropdown>
      <Dropdown.Toggle
        className="tt-chip"
        id="variants"
        data-explain="Named changes on the project. Key V flips between one and the project as it is."
      >
        {[...byCondition.filter((name) => name !== variant), variant ?? 'as it is'].join(' + ')}
      </Dropdown.Toggle>
      <Dropdown.Menu>
        <MenuItem active={variant === null} onClick={() => showVariant(null)}>
          As it is
        </MenuItem>
        {names.map((name) => (
          <MenuItem key={name} active={variant === name} onClick={() => showVariant(name)}>
            {name}
          </MenuItem>
        ))}
        {at >= 0 && (
          <>
            <Dropdown.Divider />
            <MenuHeading>“{variant}” applies by itself</MenuHeading>
            {([null, 'metered', 'weak-device', 'low-memory'] as const).map((when) => (
              <MenuItem
                key={String(when)}
                active={project.variants[at]!.when === when}
                data-explain={when === null ? 'only when it is picked here' : `while ${conditions[when].explain}`}
                onClick={() => edit('condition', [{ op: 'replace', path: `/variants/${at}/when`, value: when }])}
              >
                {when === null ? 'never' : conditions[when].name}
              </MenuItem>
            ))}
            <div className="tt-menu-field">
              Its name
              <NameField
                label={`Name of the variant ${variant}`}
                name={names[at]!}
                taken={names}
                onName={(name) => {
                  edit(`call the variant ${name}`, [{ op: 'replace', path: `/variants/${at}/name`, value: name }])
                  showVariant(name)
                }}
              />
            </div>
            <MenuItem
              onClick={() => {
                showVariant(null)
                edit('variant', [{ op: 'remove', path: `/variants/${at}` }])
              }}
            >
              Remove “{variant}” from the project
            </MenuItem>
          </>
        )}
        {last && variant === null && (
          <>
            <Dropdown.Divider />
            <MenuItem onClick={() => keepAsVariant(last.raw as Raw, `Variant ${names.length + 1}`)}>
              Keep what changed since run {last.number} as a variant
            </MenuItem>
          </>
        )}
      </Dropdown.Menu>
    </Dropdown>
  )
}
