import FormControl from 'react-bootstrap/FormControl'
import { useState } from 'react'
import Button from 'react-bootstrap/Button'
import Modal from 'react-bootstrap/Modal'
import Table from 'react-bootstrap/Table'
import useSWR from 'swr'
import { useHistory } from '../store/history.ts'
import { useProject } from '../store/project-store.ts'
import {
  addDemo,
  addEmpty,
  deleteProject,
  duplicateProject,
  listProjects,
  renameProject,
  type ListedProject,
} from '../store/projects.ts'
import { useOpenProject } from './address.ts'

/** A list of more projects than this can be searched. */
const searchFrom = 8

/** All projects of this browser: opened, renamed, duplicated and deleted, with their size in storage. */
export default function ProjectsDialog({ onClose }: { onClose: () => void }) {
  const state = useProject()
  // Every action, and its undo, changes the list.
  const history = useHistory()
  const { data: projects, mutate } = useSWR(['projects', state?.id, state?.project.name, history], listProjects, {
    keepPreviousData: true,
  })
  const [search, setSearch] = useState('')
  const [naming, setNaming] = useState<string | null>(null)
  const openProject = useOpenProject()
  const wanted = search.trim().toLowerCase()
  const shown = projects?.filter(({ name }) => name.toLowerCase().includes(wanted)) ?? []
  const total = projects?.reduce((sum, { bytes }) => sum + bytes, 0) ?? 0
  const after = (work: Promise<void>) => void work.then(() => mutate())
  const open = (id: string) => {
    openProject(id)
    onClose()
  }
  return (
    <Modal show onHide={onClose} size="lg" scrollable aria-labelledby="projects-title">
      <Modal.Header closeButton>
        <Modal.Title id="projects-title" as="h2">
          Projects in this browser
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <div className="tt-source-line">
          <Button size="sm" onClick={() => void addEmpty().then(onClose)}>
            New empty project
          </Button>
          <Button size="sm" variant="outline-primary" onClick={() => void addDemo().then(onClose)}>
            New from the demo
          </Button>
          {(projects?.length ?? 0) > searchFrom && (
            <FormControl
              size="sm"
              type="search"
              aria-label="Search projects"
              placeholder="Search by name"
              value={search}
              onChange={(event) => setSearch(event.target.value)}
            />
          )}
        </div>
        <Table size="sm" className="tt-projects">
          <thead>
            <tr>
              <th scope="col">Project</th>
              <th scope="col">Changed</th>
              <th scope="col" className="text-end">
                Runs
              </th>
              <th scope="col" className="text-end">
                Storage
              </th>
              <th scope="col">
                <span className="visually-hidden">Actions</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {shown.map((project) => (
              <ProjectRow
                key={project.id}
                project={project}
                isOpen={project.id === state?.id}
                naming={naming === project.id}
                onName={(on) => setNaming(on ? project.id : null)}
                onRename={(name) => after(renameProject(project.id, name))}
                onOpen={() => open(project.id)}
                onDuplicate={() => after(duplicateProject(project.id))}
                onDelete={() => after(deleteProject(project.id))}
              />
            ))}
          </tbody>
        </Table>
        {projects && shown.length === 0 && <p className="tt-quiet">No project has “{search}” in its name.</p>}
        <p className="tt-quiet">
          {projects?.length ?? 0} {projects?.length === 1 ? 'project' : 'projects'}, {size(total)} in all. Deleting a
          project, or runs of it in Profile, frees what it takes; Undo brings it back.
        </p>
      </Modal.Body>
    </Modal>
  )
}

interface ProjectRowProps {
  project: ListedProject
  isOpen: boolean
  naming: boolean
  onName: (on: boolean) => void
  onRename: (name: string) => void
  onOpen: () => void
  onDuplicate: () => void
  onDelete: () => void
}

function ProjectRow({ project, isOpen, naming, onName, onRename, onOpen, onDuplicate, onDelete }: ProjectRowProps) {
  const { name, changed, runs, bytes } = project
  return (
    <tr aria-current={isOpen ? 'true' : undefined}>
      <th scope="row">
        {naming ? (
          <FormControl
            size="sm"
            aria-label={`Name of ${name}`}
            autoFocus
            defaultValue={name}
            maxLength={200}
            onBlur={(event) => {
              onRename(event.target.value)
              onName(false)
            }}
            onKeyDown={(event) => {
              if (event.key === 'Enter') event.currentTarget.blur()
              if (event.key === 'Escape') {
                event.stopPropagation()
                onName(false)
              }
            }}
          />
        ) : (
          <Button variant="link" size="sm" className="tt-name" onClick={onOpen}>
            {name}
          </Button>
        )}
      </th>
      <td>{new Date(changed).toLocaleString()}</td>
      <td className="text-end">{runs}</td>
      <td className="text-end">{size(bytes)}</td>
      <td className="tt-row-actions">
        <Button size="sm" variant="link" aria-label={`Rename ${name}`} onClick={() => onName(true)}>
          rename
        </Button>
        <Button size="sm" variant="link" aria-label={`Duplicate ${name}`} onClick={onDuplicate}>
          duplicate
        </Button>
        <Button size="sm" variant="link" aria-label={`Delete ${name}`} onClick={onDelete}>
          delete
        </Button>
      </td>
    </tr>
  )
}

const size = (bytes: number) =>
  bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${(bytes / 1e6).toFixed(1)} MB`
