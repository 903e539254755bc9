import 'bootstrap/dist/css/bootstrap.min.css'
import './theme/tokens.css'
import './theme/app.css'
import './theme/device.css'
import './theme/cells.css'
import './theme/feed.css'
import './theme/cell.css'
import './theme/loading.css'
import './theme/drive.css'
import './theme/profile.css'
import './theme/lenses.css'
import './theme/compare.css'
import './theme/small.css'
import { StrictMode, type ComponentType } from 'react'
import { createRoot } from 'react-dom/client'
import { createBrowserRouter, Navigate, RouterProvider } from 'react-router'
import { LazyPart } from './shell/LazyPart.tsx'
import { Shell } from './shell/Shell.tsx'
import { SoonStep } from './shell/SoonStep.tsx'
import { asksBeforeLeaving } from './shell/leaving.ts'
import { loadSoon } from './shell/load-soon.ts'
import { followHand } from './store/hand.ts'
import { saveWhenLeft } from './store/project-store.ts'
import { openStorage } from './store/storage.ts'
import { followTheme } from './theme/follow-theme.ts'

const later = (name: string, load: () => Promise<{ default: ComponentType }>) => (
  <LazyPart key={name} name={name} load={load} meanwhile={<p className="tt-quiet">Opening…</p>} />
)

const steps = [
  { path: 'feed', element: later('Feed', () => import('./feed/FeedStep.tsx')) },
  { path: 'cell', element: later('Cell', () => import('./cell/CellStep.tsx')) },
  { path: 'loading', element: later('Loading', () => import('./loading/LoadingStep.tsx')) },
  { path: 'drive', element: later('Drive', () => import('./drive/DriveStep.tsx')) },
  { path: 'profile/:run?/:request?', element: later('Profile', () => import('./profile/ProfileStep.tsx')) },
  { path: 'compare', element: later('Compare', () => import('./compare/CompareStep.tsx')) },
  { path: 'hand-off', element: <SoonStep path="hand-off" /> },
]

const router = createBrowserRouter([
  {
    path: '/p/:project',
    element: <Shell />,
    children: [
      { index: true, element: <Navigate to="loading" replace /> },
      ...steps,
      { path: '*', element: <Navigate to="../loading" relative="path" replace /> },
    ],
  },
  // An address without a project is that of the one that was open last.
  { path: '*', element: <Shell /> },
])

followTheme()
saveWhenLeft()
followHand(window)
asksBeforeLeaving()
void openStorage()
createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <RouterProvider router={router} />
  </StrictMode>,
)
loadSoon()
