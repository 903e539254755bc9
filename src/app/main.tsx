import 'bootstrap/dist/css/bootstrap.min.css'
import './theme/tokens.css'
import './theme/app.css'
import './theme/cells.css'
import { lazy, StrictMode, Suspense } from 'react'
import { createRoot } from 'react-dom/client'
import { createBrowserRouter, Navigate, RouterProvider } from 'react-router'
import demo from '../../demo/saltmarsh.tiletug.json'
import { CellStep } from './cell/CellStep.tsx'
import { LoadingStep } from './loading/LoadingStep.tsx'
import { Shell } from './shell/Shell.tsx'
import { SoonStep } from './shell/SoonStep.tsx'
import { openLast } from './store/project-store.ts'
import { followTheme } from './theme/follow-theme.ts'

const ProfileStep = lazy(() => import('./profile/ProfileStep.tsx'))

const router = createBrowserRouter([
  {
    path: '/',
    element: <Shell />,
    children: [
      { index: true, element: <Navigate to="/loading" replace /> },
      { path: 'cell', element: <CellStep /> },
      { path: 'loading', element: <LoadingStep /> },
      { path: 'profile/:run?/:request?', element: <Suspense fallback={<p>Opening…</p>}><ProfileStep /></Suspense> },
      ...['feed', 'drive', 'compare', 'hand-off'].map((path) => ({ path, element: <SoonStep path={path} /> })),
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
