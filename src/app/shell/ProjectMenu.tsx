import { useLiveQuery } from 'dexie-react-hooks'
import { useRef } from 'react'
import Dropdown from 'react-bootstrap/Dropdown'
import demo from '../../../demo/saltmarsh.tiletug.json'
import { database } from '../store/database.ts'
import { addProject, fileOf, openStored, openText, undoLast, useProject } from '../store/project-store.ts'
import { saveFile } from '../store/save-file.ts'

/** The project's name, and what can be done with projects. */
export default function ProjectMenu() {
  const state = useProject()
  const picker = useRef<HTMLInputElement>(null)
  const others = useLiveQuery(() => database.projects.orderBy('changed').reverse().limit(12).toArray(), []) ?? []
  if (!state) return null
  const fileName = `${
    state.project.name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '') || 'project'
  }.tiletug.json`
  return (
    <>
      <Dropdown>
        <Dropdown.Toggle className="tt-project" id="project-menu" data-project={state.id}>
          {state.project.name}
        </Dropdown.Toggle>
        <Dropdown.Menu>
          <Dropdown.Item onClick={() => picker.current?.click()}>Open a file…</Dropdown.Item>
          <Dropdown.Item onClick={() => saveFile(fileName, 'application/json', fileOf(state))}>
            Save as a file
          </Dropdown.Item>
          <Dropdown.Item onClick={() => void addProject(demo, null)}>New from the demo</Dropdown.Item>
          <Dropdown.Item onClick={undoLast} disabled={!state.canUndo}>
            Undo the last change
          </Dropdown.Item>
          <Dropdown.Divider />
          <Dropdown.Header>In this browser</Dropdown.Header>
          {others.map((project) => (
            <Dropdown.Item
              key={project.id}
              active={project.id === state.id}
              onClick={() => void openStored(project.id)}
            >
              {project.name} <small>{new Date(project.changed).toLocaleString()}</small>
            </Dropdown.Item>
          ))}
        </Dropdown.Menu>
      </Dropdown>
      <input
        ref={picker}
        type="file"
        accept=".json,application/json"
        hidden
        aria-label="Project file"
        onChange={(event) => {
          const file = event.target.files?.[0]
          event.target.value = ''
          if (file) void file.text().then((text) => openText(file.name, text))
        }}
      />
    </>
  )
}
