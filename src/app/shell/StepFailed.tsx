import Button from 'react-bootstrap/Button'
import { useRevalidator, useRouteError } from 'react-router'

/** A step that fails leaves the device and the project as they are. */
export function StepFailed() {
  const error = useRouteError()
  const { revalidate } = useRevalidator()
  return (
    <div role="alert" className="tt-card">
      <h2>This step has failed</h2>
      <p>{error instanceof Error ? error.message : String(error)}. The project and the device are as they were.</p>
      <Button onClick={() => void revalidate()}>Try again</Button>
    </div>
  )
}
