import FormControl from 'react-bootstrap/FormControl'
import { useState } from 'react'
import Button from 'react-bootstrap/Button'
import Dropdown from 'react-bootstrap/Dropdown'
import Form from 'react-bootstrap/Form'
import Modal from 'react-bootstrap/Modal'
import useSWR from 'swr'
import { z } from 'zod'
import { ownServer } from '../../live/own-server.ts'
import { edit, useProject } from '../store/project-store.ts'
import { showScreen, useDevice } from './device-store.ts'
import { addFolder, addScreen, duplicateScreen, removeScreen, renameScreen } from './screen-edits.ts'
import { MenuHeading, MenuItem } from '../controls/MenuItem.tsx'

const folderSchema = z.object({ pictures: z.int().nullable() })
const askFolder = async (url: string) => folderSchema.parse(await ownServer.get(url).json())

/** The screen that the device shows, the others of the project, and what can be done with them. */
export default function ScreenChip({ name }: { name: string }) {
  const { project } = useProject()!
  const chosen = useDevice(({ screen }) => screen)
  const { data } = useSWR('/api/origin/folder', askFolder)
  const [naming, setNaming] = useState(false)
  const pictures = data?.pictures ?? null
  const at = Math.min(chosen, project.screens.length - 1)
  const hasFolder = project.screens.some(
    (screen) => screen.feed.source.type === 'origin' && screen.feed.source.feed === 'folder',
  )
  return (
    <>
      <Dropdown>
        <Dropdown.Toggle className="tt-chip" id="screens">
          {name}
        </Dropdown.Toggle>
        <Dropdown.Menu>
          {project.screens.map((screen, index) => (
            <MenuItem key={screen.id} active={index === at} onClick={() => showScreen(index)}>
              {screen.name || screen.id}
            </MenuItem>
          ))}
          <Dropdown.Divider />
          <MenuItem onClick={() => showScreen(addScreen(project))}>Add a screen</MenuItem>
          {pictures !== null && !hasFolder && (
            <MenuItem
              onClick={() => {
                edit('add your folder', addFolder)
                showScreen(project.screens.length)
              }}
            >
              Add your folder ({pictures} pictures)
            </MenuItem>
          )}
          <Dropdown.Divider />
          <MenuHeading>This screen</MenuHeading>
          <MenuItem onClick={() => setNaming(true)}>Rename “{name}”…</MenuItem>
          <MenuItem onClick={() => showScreen(duplicateScreen(project, at))}>Duplicate “{name}”</MenuItem>
          <MenuItem
            disabled={project.screens.length === 1}
            onClick={() => {
              removeScreen(project, at)
              showScreen(Math.max(0, at - 1))
            }}
          >
            Remove “{name}”
          </MenuItem>
        </Dropdown.Menu>
      </Dropdown>
      {naming && <NameScreen name={name} onName={(next) => renameScreen(at, next)} onClose={() => setNaming(false)} />}
    </>
  )
}

interface NameScreenProps {
  name: string
  onName: (name: string) => void
  onClose: () => void
}

function NameScreen({ name, onName, onClose }: NameScreenProps) {
  const [text, setText] = useState(name)
  return (
    <Modal show onHide={onClose} aria-labelledby="screen-name-title">
      <Form
        onSubmit={(event) => {
          event.preventDefault()
          onName(text.trim())
          onClose()
        }}
      >
        <Modal.Header closeButton>
          <Modal.Title id="screen-name-title" as="h2">
            Name of the screen
          </Modal.Title>
        </Modal.Header>
        <Modal.Body>
          <FormControl
            autoFocus
            aria-label="Screen name"
            maxLength={200}
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
        </Modal.Body>
        <Modal.Footer>
          <Button variant="outline-secondary" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" disabled={text.trim() === ''}>
            Rename
          </Button>
        </Modal.Footer>
      </Form>
    </Modal>
  )
}
