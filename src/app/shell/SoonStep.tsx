import { steps } from './steps.ts'

/** A step that is not built yet says what it will do, and fakes nothing. */
export default function SoonStep() {
  const { name, decides } = steps.find(({ path }) => path === 'hand-off')!
  return (
    <div className="tt-step">
      <h1>{name}</h1>
      <p className="tt-lead">{decides}</p>
      <p className="tt-card">
        Not in this version yet. Here the settings, their reasons and their proof will be put on a sheet, grouped by the
        place in an app where they belong.
      </p>
    </div>
  )
}
