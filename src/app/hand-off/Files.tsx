import Table from 'react-bootstrap/Table'
import { Chip } from '../controls/Chip.tsx'
import { runWorker } from '../simulate/worker-client.ts'
import { fileOf, notify, useProject } from '../store/project-store.ts'
import { logOf, useRuns } from '../store/run-store.ts'
import { saveBlob, saveFile } from '../store/save-file.ts'
import type { RunFile } from '../../workers/jobs/file-jobs.ts'
import { Vectors } from './Vectors.tsx'

/** The files that can be written of a run: part of it, file extension, purpose. */
const ofRun: readonly { what: RunFile; name: string; end: string; type: string; use: string }[] = [
  {
    what: 'har',
    name: 'Requests as HAR 1.2',
    end: '.har',
    type: 'application/json',
    use: 'Every transfer, for tools that read HTTP archives.',
  },
  {
    what: 'log',
    name: 'Run log as NDJSON',
    end: '.ndjson',
    type: 'application/x-ndjson',
    use: 'Every event, one per line, for tools of your own; dropped here again it is opened as a run.',
  },
  {
    what: 'events',
    name: 'App events',
    end: '.events.ndjson',
    type: 'application/x-ndjson',
    use: 'What an app would have sent of it; it can be brought in again under Drive, recorded.',
  },
  {
    what: 'figures',
    name: 'Figures as CSV',
    end: '-figures.csv',
    type: 'text/csv',
    use: 'Every metric with its unit, to the last digit.',
  },
  {
    what: 'map',
    name: 'Scroll map as SVG',
    end: '-map.svg',
    type: 'image/svg+xml',
    use: 'For a document or a review; Profile saves the part that is looked at, as PNG too.',
  },
]

/** The sheet as it is saved; its budgets as JUnit, null: it has none. */
export interface SheetFiles {
  markdown: string
  html: string
  budgets: string | null
}

const noBudgets = (sheet: SheetFiles | null) =>
  sheet ? 'the project has none yet; Compare proposes some.' : 'make the sheet first, which measures them.'

/** Files for other tools, with their purposes. `sheet`: the sheet that was made, as it is saved. */
export function Files({ slug, sheet }: { slug: string; sheet: SheetFiles | null }) {
  const state = useProject()!
  const { list, shown } = useRuns()
  const run = list.find(({ id }) => id === shown)
  const budgets = sheet?.budgets ?? null
  const attempt = (act: () => Promise<void>) =>
    void act().catch((error: unknown) =>
      notify(`The file could not be written: ${error instanceof Error ? error.message : String(error)}`),
    )
  const textOf = async (what: RunFile) => {
    const kept = run && (await logOf(run.id))
    if (!kept) throw new Error('its log is not in this browser any more')
    return runWorker.ask('runFile', { what, log: kept.log, hash: run.hash }).result
  }
  const nameOf = (end: string) => `${slug}-run-${run?.number ?? 0}${end}`
  const saveAll = async () => {
    const files = [{ name: `${slug}.tiletug.json`, text: fileOf(state) }]
    if (run) for (const { what, end } of ofRun) files.push({ name: nameOf(end), text: await textOf(what) })
    const { text } = await runWorker.ask('vectors', { raw: state.effective }).result
    files.push({ name: `${slug}.vectors.json`, text })
    if (sheet)
      files.push(
        { name: `${slug}-hand-off.md`, text: sheet.markdown },
        { name: `${slug}-hand-off.html`, text: sheet.html },
        ...(sheet.budgets === null ? [] : [{ name: `${slug}-budgets.xml`, text: sheet.budgets }]),
      )
    const zip = await runWorker.ask('zip', { files }).result
    saveBlob(`${slug}.zip`, new Blob([zip as Uint8Array<ArrayBuffer>], { type: 'application/zip' }))
  }
  return (
    <section className="tt-card" aria-label="Files">
      <h2>Files</h2>
      <Table size="sm">
        <tbody>
          <tr>
            <th scope="row">Project file</th>
            <td>All settings, to be kept beside the app’s code and held by CI.</td>
            <td>
              <Chip onClick={() => saveFile(`${slug}.tiletug.json`, 'application/json', fileOf(state))}>save</Chip>
            </td>
          </tr>
          {ofRun.map(({ what, name, end, type, use }) => (
            <tr key={what}>
              <th scope="row">{name}</th>
              <td>
                {use} {run ? `Of run ${run.number}.` : 'There is no run yet.'}
              </td>
              <td>
                <Chip
                  aria-label={what === 'har' ? 'save the requests' : `save: ${name}`}
                  disabled={!run}
                  onClick={() => attempt(async () => saveFile(nameOf(end), type, await textOf(what)))}
                >
                  save
                </Chip>
              </td>
            </tr>
          ))}
          <tr>
            <th scope="row">Budgets as JUnit</th>
            <td>
              What CI shows of them: {budgets === null ? noBudgets(sheet) : 'those of the sheet, kept and broken.'}
            </td>
            <td>
              <Chip
                aria-label="save the budgets as JUnit"
                disabled={budgets === null}
                onClick={() => budgets !== null && saveFile(`${slug}-budgets.xml`, 'application/xml', budgets)}
              >
                save
              </Chip>
            </td>
          </tr>
          <tr>
            <th scope="row">All of these as a zip</th>
            <td>With the conformance cases{sheet ? ', and the sheet' : '; make the sheet first to have it in too'}.</td>
            <td>
              <Chip aria-label="save everything as a zip" onClick={() => attempt(saveAll)}>
                save
              </Chip>
            </td>
          </tr>
        </tbody>
      </Table>
      <Vectors slug={slug} />
    </section>
  )
}
