import { replace, metric, lateBy, type Rule } from './suspicion.ts'

/** What makes frames late. */
export const frameRules: readonly Rule[] = [
  function decodeOnMain(subject) {
    if (subject.project.loading.decodeOn !== 'main') return null
    const late = lateBy(subject, 'decode')
    return {
      id: 'decode-on-main',
      what: 'Pictures are decoded on the main thread.',
      metric: 'frames.lateMsPerS',
      pinMs: late.first,
      evidence: `${late.frames} late frames carried ${Math.round(late.ms)} ms of decoding.`,
      change: 'decode in workers',
      patch: [replace('/loading/decodeOn', 'workers')],
    }
  },
  function setup(subject) {
    const { setup: when } = subject.project.loading
    const late = lateBy(subject, 'setup')
    if ((when !== 'per-bind' && when !== 'per-screen') || late.frames === 0) return null
    return {
      id: 'setup-repeated',
      what: 'The loader is set up again and again.',
      metric: 'frames.lateMsPerS',
      pinMs: late.first,
      evidence: `${late.frames} late frames carried ${Math.round(late.ms)} ms of set-up.`,
      change: 'set up once, at the app’s start',
      patch: [replace('/loading/setup', 'app-start')],
    }
  },
  function lateCells(subject) {
    const { layout } = subject.screen
    const late = lateBy(subject, 'create')
    if (late.frames < 2 || layout.afterDp > 0 || metric(subject, 'cells.createdAfterFirstScreen') < 2) return null
    return {
      id: 'late-creations',
      what: 'Cells are made while the list moves.',
      metric: 'frames.lateMsPerS',
      pinMs: late.first,
      evidence: `${metric(subject, 'cells.createdAfterFirstScreen')} cells were made after the first screen; ${late.frames} late frames carried ${Math.round(late.ms)} ms of it.`,
      change: 'attach 200 dp below the screen',
      patch: [replace(`${subject.at}/layout/afterDp`, 200)],
    }
  },
]
