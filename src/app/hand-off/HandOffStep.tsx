import { useEffect, useRef, useState } from 'react'
import Button from 'react-bootstrap/Button'
import FormCheck from 'react-bootstrap/FormCheck'
import FormControl from 'react-bootstrap/FormControl'
import { editedSheet, partId, sheetParts, type SheetEdits, type SheetPart } from '../../core/handoff/edit-sheet.ts'
import { sheetHtml } from '../../core/handoff/sheet-html.ts'
import { proofOf, sheetMarkdown } from '../../core/handoff/sheet-markdown.ts'
import type { Sheet, SheetLine } from '../../core/handoff/sheet.ts'
import { Progress } from '../controls/Progress.tsx'
import { TextButton } from '../controls/TextButton.tsx'
import { useDevice } from '../device/device-store.ts'
import { useGo } from '../shell/address.ts'
import { Cancelled, proofWorker, type Job } from '../simulate/worker-client.ts'
import { itemsToGive } from '../store/feed-store.ts'
import { notify, useProject, type ProjectState } from '../store/project-store.ts'
import { saveFile } from '../store/save-file.ts'
import { budgetJUnit } from './budget-junit.ts'
import { Files } from './Files.tsx'
import { seeProof } from './see-proof.ts'
import { useSheetEdits } from './use-sheet-edits.ts'

const seeds = 10

interface Made {
  sheet: Sheet
  /** What it was made of. */
  of: unknown
}

/** The sheet that was made last, kept for when the user comes back from where a line has led. */
let last: { project: string; made: Made } | null = null

/** The result for the real app: a sheet in the order of its code, and files that other tools read. */
export default function HandOffStep() {
  const state = useProject()!
  const chosen = useDevice(({ screen }) => screen)
  const [made, setMade] = useState<Made | null>(last?.project === state.id ? last.made : null)
  const [share, setShare] = useState<number | null>(null)
  const [trouble, setTrouble] = useState<string | null>(null)
  const job = useRef<Job<Sheet> | null>(null)
  useEffect(() => () => job.current?.cancel(), [])
  const { project } = state
  const [edits, setEdits] = useSheetEdits(state.id)
  const sheet = made && editedSheet(made.sheet, edits)
  const texts = sheet && {
    markdown: sheetMarkdown(sheet),
    html: sheetHtml(sheet),
    budgets: sheet.budgets.length > 0 ? budgetJUnit(sheet.project, sheet.budgets) : null,
  }
  const screen = project.screens[Math.min(chosen, project.screens.length - 1)]!
  const slug =
    project.name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '') || 'project'
  const make = async () => {
    setShare(0)
    setTrouble(null)
    try {
      job.current = proofWorker.ask(
        'sheet',
        {
          raw: state.effective,
          screen: screen.id,
          script: project.script ?? '',
          seeds,
          items: await itemsFor(state, screen.id),
        },
        setShare,
      )
      const fresh = { sheet: await job.current.result, of: state.effective }
      last = { project: state.id, made: fresh }
      setMade(fresh)
    } catch (error) {
      if (!(error instanceof Cancelled)) setTrouble(error instanceof Error ? error.message : String(error))
    }
    job.current = null
    setShare(null)
  }
  const copy = (text: string) =>
    navigator.clipboard.writeText(text).then(
      () => notify('The sheet was copied as Markdown.'),
      () => notify('The browser blocked the copy: save it as Markdown instead.'),
    )
  return (
    <div className="tt-step tt-hand-off">
      <h1>Hand-off · what the app takes over</h1>
      <p className="tt-lead">
        Every setting that differs from a plain loader, where it belongs in the app’s code, and what it is worth.
      </p>
      <div className="tt-source-line">
        {share === null ? (
          <Button size="sm" onClick={() => void make()}>
            {made ? 'Make it again' : 'Make the sheet'}
          </Button>
        ) : (
          <>
            <Progress name="Making the sheet" share={share} />
            <Button size="sm" variant="outline-secondary" onClick={() => job.current?.cancel()}>
              Cancel
            </Button>
          </>
        )}
        {texts && (
          <>
            <Button size="sm" variant="outline-primary" onClick={() => void copy(texts.markdown)}>
              Copy as Markdown
            </Button>
            <Button
              size="sm"
              variant="outline-primary"
              onClick={() => saveFile(`${slug}.md`, 'text/markdown', texts.markdown)}
            >
              Save as Markdown
            </Button>
            <Button
              size="sm"
              variant="outline-primary"
              data-explain="One page that refers to nothing outside, with the map before and after"
              onClick={() => saveFile(`${slug}.html`, 'text/html', texts.html)}
            >
              Save as HTML
            </Button>
          </>
        )}
      </div>
      {trouble && (
        <p className="tt-saving" role="alert">
          The sheet could not be made: {trouble}
        </p>
      )}
      {made && made.of !== state.effective && (
        <p className="tt-saving" role="status">
          The settings have changed since: this is the earlier sheet.
        </p>
      )}
      {made ? (
        <SheetView sheet={made.sheet} edits={edits} onEdits={setEdits} />
      ) : (
        <p className="tt-card">
          A sheet that can be followed line by line: what to do at start-up, at bind, at recycle and so on, each line
          with its reason and, where a simulation on {seeds} seeds shows one, its proof.
        </p>
      )}
      <Files slug={slug} sheet={texts} />
    </div>
  )
}

/** Items of the screens that are simulated: the sheet's own, and those that budgets are about. */
async function itemsFor(state: ProjectState, own: string) {
  const { screens, budgets } = state.project
  const ids = new Set([own, ...budgets.map(({ screen }) => screen ?? screens[0]!.id)])
  const found = screens.filter(({ id }) => ids.has(id))
  return new Map(
    await Promise.all(found.map(async (screen) => [screen.id, await itemsToGive(state.id, screen)] as const)),
  )
}

const partNames: Record<SheetPart, string> = {
  granted: 'what must be granted',
  steps: 'the policy as steps',
  budgets: 'budgets',
  mended: 'mistakes that this avoids',
  notLookedAt: 'what was not looked at',
  maps: 'maps before and after (HTML)',
}

interface SheetViewProps {
  sheet: Sheet
  edits: SheetEdits
  onEdits: (edits: SheetEdits) => void
}

function SheetView({ sheet, edits, onEdits }: SheetViewProps) {
  const go = useGo()
  const chosen = useDevice(({ screen }) => screen)
  const { left, comments } = edits
  const see = (line: SheetLine) =>
    seeProof(line, chosen).then(
      (runs) => go(`/compare?part=runs&runs=${runs.join(',')}`),
      (error: unknown) =>
        notify(`The proof could not be simulated: ${error instanceof Error ? error.message : String(error)}`),
    )
  const leaveOut = (id: string, out: boolean) =>
    onEdits({ ...edits, left: out ? [...left, id] : left.filter((each) => each !== id) })
  return (
    <div className="tt-sheet">
      <p className="tt-quiet">
        Made on “{sheet.screen}” with “{sheet.script}”, on {sheet.device} over {sheet.network}; medians over{' '}
        {sheet.seeds} seeds with their 95 % interval, against a plain loader that differs in that one setting alone.
      </p>
      <div className="tt-source-line" role="group" aria-label="Parts of the sheet">
        {sheetParts.map((part) => (
          <FormCheck
            key={part}
            type="checkbox"
            id={partId(part)}
            label={partNames[part]}
            checked={!left.includes(partId(part))}
            onChange={(event) => leaveOut(partId(part), !event.target.checked)}
          />
        ))}
      </div>
      {sheet.granted.length > 0 && <Part title="What the app must be granted" lines={sheet.granted} />}
      {sheet.groups.map(({ place, lines }) => (
        <section key={place} className="tt-card" aria-label={`At ${place}`}>
          <h2>At {place}</h2>
          <ul>
            {lines.map((line) => {
              const { id, path, label, value, plain, say, proof } = line
              return (
                <li key={id} data-left={left.includes(id) ? '' : undefined}>
                  <TextButton
                    data-explain="Goes to where it is set"
                    onClick={() => go(path.startsWith('/screens/') ? '/cell' : '/loading')}
                  >
                    {label}: {value}
                  </TextButton>{' '}
                  <span className="tt-quiet">(a plain loader: {plain})</span> {say}{' '}
                  <em className="tt-quiet">{proofOf(proof).replaceAll('_', '')}</em>{' '}
                  {proof && (
                    <TextButton
                      aria-label={`See the proof of ${label}`}
                      data-explain="Simulates it with the plain loader’s value and as it is, and holds the two runs against each other"
                      onClick={() => void see(line)}
                    >
                      see it
                    </TextButton>
                  )}
                  <div className="tt-source-line">
                    <FormCheck
                      type="checkbox"
                      id={`in ${id}`}
                      label="in the sheet"
                      checked={!left.includes(id)}
                      onChange={(event) => leaveOut(id, !event.target.checked)}
                    />
                    <FormControl
                      size="sm"
                      className="tt-comment"
                      aria-label={`Comment on ${label}`}
                      placeholder="a comment of your own"
                      maxLength={500}
                      value={comments[id] ?? ''}
                      onChange={(event) => onEdits({ ...edits, comments: { ...comments, [id]: event.target.value } })}
                    />
                  </div>
                </li>
              )
            })}
          </ul>
        </section>
      ))}
      <section className="tt-card" aria-label="The policy as steps">
        <h2>The policy as steps</h2>
        {sheet.steps.map(({ at, steps }) => (
          <div key={at}>
            <h3>
              {at[0]!.toUpperCase()}
              {at.slice(1)}
            </h3>
            <pre tabIndex={0}>{steps.join('\n')}</pre>
          </div>
        ))}
      </section>
      {sheet.budgets.length > 0 && (
        <Part
          title="Budgets"
          lines={sheet.budgets.map(({ ok, message }) => `${ok ? '✓ kept' : '■ broken'}: ${message}`)}
        />
      )}
      {sheet.mended.length > 0 && <Part title="Mistakes that this avoids" lines={sheet.mended} />}
      <Part title="What was not looked at" lines={sheet.notLookedAt} />
    </div>
  )
}

function Part({ title, lines }: { title: string; lines: readonly string[] }) {
  return (
    <section className="tt-card" aria-label={title}>
      <h2>{title}</h2>
      <ul>
        {lines.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </section>
  )
}
