import Button from 'react-bootstrap/Button'
import { Link } from 'react-router'
import useSWR from 'swr'
import { addDemo, listProjects } from '../store/projects.ts'
import { pathOf } from './address.ts'

/** The address names a project that this browser does not have: says so, and lists those that it has. */
export default function MissingProject() {
  const { data: projects } = useSWR('projects for a missing one', listProjects)
  return (
    <div className="tt-step">
      <h1>This project is not in this browser</h1>
      <p className="tt-lead">
        It was deleted, or it was made in another browser or at another address of the app (another port is another
        address). Projects go from one to the other as files: “Export everything” there, “Open a file” here.
      </p>
      <div className="tt-card">
        <h2>Projects in this browser</h2>
        <ul>
          {projects?.map(({ id, name }) => (
            <li key={id}>
              <Link to={pathOf(id, '/loading')}>{name}</Link>
            </li>
          ))}
        </ul>
        <Button size="sm" onClick={() => void addDemo()}>
          New from the demo
        </Button>
      </div>
    </div>
  )
}
