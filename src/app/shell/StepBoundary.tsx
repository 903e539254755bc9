import { Component, type ReactNode } from 'react'
import Button from 'react-bootstrap/Button'

/** A step that fails leaves the device and the project as they are. */
export class StepBoundary extends Component<{ children: ReactNode }, { error: Error | null }> {
  override state = { error: null as Error | null }

  static getDerivedStateFromError(error: Error) {
    return { error }
  }

  override render() {
    const { error } = this.state
    if (!error) return this.props.children
    return (
      <div role="alert" className="tt-card">
        <h2>This step has failed</h2>
        <p>{error.message}. The project and the device are as they were.</p>
        <Button onClick={() => this.setState({ error: null })}>Try again</Button>
      </div>
    )
  }
}
