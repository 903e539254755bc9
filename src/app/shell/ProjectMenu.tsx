import { useLiveQuery } from 'dexie-react-hooks'
import { useRef, useState } from 'react'
import Dropdown from 'react-bootstrap/Dropdown'
import { FilePicker } from '../controls/FilePicker.tsx'
import { database } from '../store/database.ts'
import { redoLast, undoLast, useHistory } from '../store/history.ts'
import { addDemo, addEmpty } from '../store/projects.ts'
import { fileOf, notify, useProject } from '../store/project-store.ts'
import { saveBlob, saveFile } from '../store/save-file.ts'
import { useGo, useOpenProject } from './address.ts'
import { openAnyFile } from './open-any-file.ts'
import { LazyPart } from './LazyPart.tsx'
import { MenuHeading, MenuItem } from '../controls/MenuItem.tsx'

/** The most projects in the menu itself. */
const inMenu = 8

/** The project's name, and what can be done with projects. */
export default function ProjectMenu() {
  const state = useProject()
  const { undo, redo } = useHistory()
  const picker = useRef<HTMLInputElement>(null)
  const [all, setAll] = useState(false)
  const go = useGo()
  const openProject = useOpenProject()
  const others = useLiveQuery(
    () =>
      database.projects
        .orderBy('changed')
        .reverse()
        .limit(inMenu)
        .toArray()
        // Storage has failed: the menu works without the list.
        .catch(() => []),
    [],
  )
  if (!state) return null
  const slug = state.project.name.toLowerCase().replace(/[^a-z0-9]+/g, '-')
  const fileName = `${slug.replace(/^-|-$/g, '') || 'project'}.tiletug.json`
  return (
    <>
      <Dropdown>
        <Dropdown.Toggle className="tt-project" id="project-menu" data-project={state.id}>
          {state.project.name}
        </Dropdown.Toggle>
        <Dropdown.Menu>
          <MenuItem onClick={() => picker.current?.click()}>Open a file…</MenuItem>
          <MenuItem onClick={() => saveFile(fileName, 'application/json', fileOf(state))}>Save as a file</MenuItem>
          <MenuItem onClick={() => void saveEverything()}>Export everything…</MenuItem>
          <Dropdown.Divider />
          <MenuItem onClick={() => void addEmpty()}>New empty project</MenuItem>
          <MenuItem onClick={() => void addDemo()}>New from the demo</MenuItem>
          <Dropdown.Divider />
          <MenuItem onClick={() => void undoLast()} disabled={undo === null}>
            Undo{undo === null ? '' : `: ${undo}`}
          </MenuItem>
          <MenuItem onClick={() => void redoLast()} disabled={redo === null}>
            Redo{redo === null ? '' : `: ${redo}`}
          </MenuItem>
          <Dropdown.Divider />
          <MenuHeading>In this browser</MenuHeading>
          {others?.map((project) => (
            <MenuItem key={project.id} active={project.id === state.id} onClick={() => openProject(project.id)}>
              {project.name} <small>{new Date(project.changed).toLocaleString()}</small>
            </MenuItem>
          ))}
          <MenuItem onClick={() => setAll(true)}>All projects…</MenuItem>
        </Dropdown.Menu>
      </Dropdown>
      {all && <AllProjects onClose={() => setAll(false)} />}
      <FilePicker
        ref={picker}
        label="Project file"
        accept=".json,.ndjson,.zip"
        onFiles={([file]) => void openAnyFile(file!, go, 'project')}
      />
    </>
  )
}

function AllProjects({ onClose }: { onClose: () => void }) {
  return (
    <LazyPart name="All projects" load={() => import('./ProjectsDialog.tsx')} given={{ onClose }} fallback={null} />
  )
}

/** Everything that this browser keeps, as one file for another browser or another address of the app. */
async function saveEverything(): Promise<void> {
  try {
    const { exportEverything } = await import('../store/everything.ts')
    saveBlob('tile-tug-everything.zip', await exportEverything())
  } catch (error) {
    notify(`Everything could not be exported: ${error instanceof Error ? error.message : String(error)}`)
  }
}
