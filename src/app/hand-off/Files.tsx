import Table from 'react-bootstrap/Table'
import { Chip } from '../controls/Chip.tsx'
import { runWorker } from '../simulate/worker-client.ts'
import { fileOf, tell, useProject } from '../store/project-store.ts'
import { logOf, useRuns } from '../store/run-store.ts'
import { saveFile } from '../store/save-file.ts'

/** Files that other tools read, and what each is for. */
export function Files({ slug }: { slug: string }) {
  const state = useProject()!
  const { list, shown } = useRuns()
  const run = list.find(({ id }) => id === shown)
  const saveHar = async () => {
    if (!run) return
    const kept = await logOf(run.id)
    if (!kept) return tell(`The log of run ${run.number} is not in this browser any more.`)
    try {
      saveFile(
        `${slug}-run-${run.number}.har`,
        'application/json',
        await runWorker.ask('har', { log: kept.log, hash: run.hash }).result,
      )
    } catch (error) {
      tell(`The requests could not be written: ${error instanceof Error ? error.message : String(error)}`)
    }
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
          <tr>
            <th scope="row">Requests as HAR 1.2</th>
            <td>
              {run
                ? `Every transfer of run ${run.number}, for tools that read HTTP archives.`
                : 'Every transfer of a run, for tools that read HTTP archives; there is no run yet.'}
            </td>
            <td>
              <Chip aria-label="save the requests" disabled={!run} onClick={() => void saveHar()}>
                save
              </Chip>
            </td>
          </tr>
        </tbody>
      </Table>
    </section>
  )
}
