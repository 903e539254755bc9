import 'bootstrap/dist/css/bootstrap.min.css'
import './theme/tokens.css'
import './theme/app.css'
import './theme/controls.css'
import './theme/device.css'
import './theme/cells.css'
import './theme/feed.css'
import './theme/cell.css'
import './theme/loading.css'
import './theme/drive.css'
import './theme/profile.css'
import './theme/lenses.css'
import './theme/compare.css'
import './theme/sweep.css'
import './theme/help.css'
import './theme/small.css'
import { StrictMode, type ComponentType } from 'react'
import { createRoot } from 'react-dom/client'
import { createBrowserRouter, Navigate, RouterProvider, type RouteObject } from 'react-router'
import { LazyPart } from './shell/LazyPart.tsx'
import { Shell } from './shell/Shell.tsx'
import { StepFailed } from './shell/StepFailed.tsx'
import { asksBeforeLeaving } from './shell/leaving.ts'
import { headingOf } from './shell/address.ts'
import { loadSoon } from './shell/load-soon.ts'
import { followHand } from './store/hand.ts'
import { saveWhenLeft } from './store/saving.ts'
import { openStorage } from './store/storage.ts'
import { followTheme } from './theme/follow-theme.ts'

/**
 * A step is loaded when it is first opened. The router tries only once: a step that failed to load becomes a part that
 * can be tried again.
 */
function step(path: string, name: string, load: () => Promise<{ default: ComponentType }>): RouteObject {
  const opening = <p className="tt-quiet">Opening…</p>
  return {
    path,
    lazy: () =>
      load().then(
        ({ default: Component }) => ({ Component }),
        () => ({ element: <LazyPart name={name} load={load} fallback={opening} /> }),
      ),
    errorElement: <StepFailed />,
    hydrateFallbackElement: opening,
  }
}

const loading = {
  feed: () => import('./feed/FeedStep.tsx'),
  cell: () => import('./cell/CellStep.tsx'),
  loading: () => import('./loading/LoadingStep.tsx'),
  drive: () => import('./drive/DriveStep.tsx'),
  profile: () => import('./profile/ProfileStep.tsx'),
  compare: () => import('./compare/CompareStep.tsx'),
  'hand-off': () => import('./hand-off/HandOffStep.tsx'),
}

const steps: RouteObject[] = [
  step('feed', 'Feed', loading.feed),
  step('cell', 'Cell', loading.cell),
  step('loading', 'Loading', loading.loading),
  step('drive', 'Drive', loading.drive),
  step('profile/:run?/:request?', 'Profile', loading.profile),
  step('compare', 'Compare', loading.compare),
  step('hand-off', 'Hand-off', loading['hand-off']),
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
  // An address without a project means the one that was open last.
  { path: '*', element: <Shell /> },
])

headingOf(router)
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
// The router renders the step only when the project is there.
const here = location.pathname.split('/').find((part) => part in loading) ?? 'loading'
loadSoon(loading[here as keyof typeof loading])
