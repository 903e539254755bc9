import { soon, steps } from './steps.ts'

/** A step that is not built yet says what it will do, and fakes nothing. */
export function SoonStep({ path }: { path: string }) {
  const step = steps.find((each) => each.path === path)!
  return (
    <div className="tt-step">
      <h1>{step.name}</h1>
      <p className="tt-lead">{step.decides}</p>
      <p className="tt-card">Not in this version yet. {soon[path]}</p>
    </div>
  )
}
