import FormSelect from 'react-bootstrap/FormSelect'
import { set, useProject } from '../store/project-store.ts'

/** Which gesture drives the list. */
export default function ScriptPick() {
  const { project } = useProject()!
  return (
    <span className="tt-script">
      <FormSelect
        size="sm"
        aria-label="Script"
        data-explain="The gesture that drives the list"
        value={project.script ?? ''}
        onChange={(event) => set('/script', event.target.value)}
      >
        {project.scripts.map((script) => (
          <option key={script.name}>{script.name}</option>
        ))}
      </FormSelect>
    </span>
  )
}
