import Button from 'react-bootstrap/Button'
import { useEffect } from 'react'
import { valueAt } from '../../core/feed/json-pointer.ts'
import { isWhole } from '../../core/sweep/setting.ts'
import { notify, useProject } from '../store/project-store.ts'
import { followSweep, toggleVary, useSweep } from '../sweep/sweep-store.ts'

/** Adds a setting to the sweep, where it is set; pressed again it removes it. */
export function VaryButton({ path, label }: { path: string; label: string }) {
  // Drawn again only when the setting comes or goes, not with every change of the project.
  const id = useProject((state) => state?.id)
  const has = useProject((state) => state !== null && (isWhole(path) || valueAt(state.project, path) !== undefined))
  const isVaried = useSweep(({ varied }) => varied.some((each) => each.path === path))
  useEffect(() => {
    if (id !== undefined) void followSweep(id)
  }, [id])
  if (!has) return null
  return (
    <Button
      variant="link"
      className="tt-vary"
      aria-pressed={isVaried}
      aria-label={`Vary ${label}`}
      data-explain={
        isVaried
          ? `${label} varies in the sweep on Compare. Press to remove it.`
          : `Try several values of ${label} in a sweep on Compare`
      }
      onClick={() => void toggleVary(path).then(notify)}
    >
      <span aria-hidden>⋔</span>
    </Button>
  )
}
