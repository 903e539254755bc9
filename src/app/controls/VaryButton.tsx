import Button from 'react-bootstrap/Button'
import { useEffect } from 'react'
import { valueAt } from '../../core/feed/json-pointer.ts'
import { tell, useProject } from '../store/project-store.ts'
import { followSweep, toggleVary, useSweep } from '../sweep/sweep-store.ts'

/** Puts a setting on the sweep, where it is set; pressed again it takes it off. */
export function VaryButton({ path, label }: { path: string; label: string }) {
  const state = useProject()
  const isVaried = useSweep(({ varied }) => varied.some((each) => each.path === path))
  const id = state?.id
  useEffect(() => {
    if (id !== undefined) void followSweep(id)
  }, [id])
  if (!state || valueAt(state.project, path) === undefined) return null
  return (
    <Button
      variant="link"
      className="tt-vary"
      aria-pressed={isVaried}
      aria-label={`Vary ${label}`}
      data-explain={
        isVaried
          ? `${label} varies in the sweep on Compare. Press to take it off.`
          : `Try several values of ${label} in a sweep on Compare`
      }
      onClick={() => tell(toggleVary(path))}
    >
      <span aria-hidden>⋔</span>
    </Button>
  )
}
