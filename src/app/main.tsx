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
import { lazy, StrictMode, Suspense, type ReactNode } from 'react'
import { createRoot } from 'react-dom/client'
import { createBrowserRouter, Navigate, RouterProvider } from 'react-router'
import demo from '../../demo/saltmarsh.tiletug.json'
import { Shell } from './shell/Shell.tsx'
import { SoonStep } from './shell/SoonStep.tsx'
import { openLast } from './store/project-store.ts'
import { followTheme } from './theme/follow-theme.ts'

const CellStep = lazy(() => import('./cell/CellStep.tsx'))
const FeedStep = lazy(() => import('./feed/FeedStep.tsx'))
const CompareStep = lazy(() => import('./compare/CompareStep.tsx'))
const DriveStep = lazy(() => import('./drive/DriveStep.tsx'))
const LoadingStep = lazy(() => import('./loading/LoadingStep.tsx'))
const ProfileStep = lazy(() => import('./profile/ProfileStep.tsx'))

const later = (step: ReactNode) => <Suspense fallback={<p className="tt-quiet">Opening…</p>}>{step}</Suspense>

const router = createBrowserRouter([
  {
    path: '/',
    element: <Shell />,
    children: [
      { index: true, element: <Navigate to="/loading" replace /> },
      { path: 'feed', element: later(<FeedStep />) },
      { path: 'cell', element: later(<CellStep />) },
      { path: 'compare', element: later(<CompareStep />) },
      { path: 'drive', element: later(<DriveStep />) },
      { path: 'loading', element: later(<LoadingStep />) },
      { path: 'profile/:run?/:request?', element: later(<ProfileStep />) },
      ...['hand-off'].map((path) => ({ path, element: <SoonStep path={path} /> })),
      { path: '*', element: <Navigate to="/loading" replace /> },
    ],
  },
])

followTheme()
void openLast(demo)
createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <RouterProvider router={router} />
  </StrictMode>,
)
