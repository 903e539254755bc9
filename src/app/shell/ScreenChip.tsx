import Dropdown from 'react-bootstrap/Dropdown'
import useSWR from 'swr'
import { edit, useProject } from '../store/project-store.ts'
import { showScreen } from './device-store.ts'

const fetchJson = async (url: string) => (await (await fetch(url)).json()) as { pictures: number | null }

/** The screen that the device shows, and the others that it can. */
export default function ScreenChip({ name }: { name: string }) {
  const { project } = useProject()!
  const { data } = useSWR('/api/origin/folder', fetchJson)
  const pictures = data?.pictures ?? null
  const hasFolder = project.screens.some(
    (screen) => screen.feed.source.type === 'origin' && screen.feed.source.feed === 'folder',
  )
  return (
    <Dropdown>
      <Dropdown.Toggle className="tt-chip" id="screens">
        {name}
      </Dropdown.Toggle>
      <Dropdown.Menu>
        {project.screens.map((screen, index) => (
          <Dropdown.Item key={screen.id} onClick={() => showScreen(index)}>
            {screen.name || screen.id}
          </Dropdown.Item>
        ))}
        {pictures !== null && !hasFolder && (
          <>
            <Dropdown.Divider />
            <Dropdown.Item
              onClick={() => {
                edit('folder', addFolder)
                showScreen(project.screens.length)
              }}
            >
              Add your folder ({pictures} pictures)
            </Dropdown.Item>
          </>
        )}
      </Dropdown.Menu>
    </Dropdown>
  )
}

const addFolder = [
  {
    op: 'add' as const,
    path: '/screens/-',
    value: {
      id: 'folder',
      name: 'Your folder',
      feed: { source: { type: 'origin', feed: 'folder' }, key: '/id' },
      layout: { columns: 2, gapDp: 6, paddingDp: 8 },
      cells: [
        {
          arrangement: 'picture-only',
          height: { type: 'content' },
          slots: [
            {
              id: 'main',
              address: { type: 'template', template: '{+photo}?width={widthPx}&height={heightPx}' },
              size: { type: 'aspect', ratio: 1 },
            },
          ],
        },
      ],
    },
  },
]
