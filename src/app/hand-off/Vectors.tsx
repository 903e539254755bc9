import { useState } from 'react'
import Table from 'react-bootstrap/Table'
import useSWRImmutable from 'swr/immutable'
import { clauses } from '../../core/vectors/protocol.ts'
import { Chip } from '../controls/Chip.tsx'
import { runWorker } from '../simulate/worker-client.ts'
import { useProject } from '../store/project-store.ts'
import { saveFile } from '../store/save-file.ts'

/** Conformance cases for the app's own loader: what each is about, and the file that the runner takes. */
export function Vectors({ slug }: { slug: string }) {
  const { effective: raw } = useProject()!
  const [open, setOpen] = useState(false)
  const { data: made, error } = useSWRImmutable<Awaited<ReturnType<typeof ask>>, Error>(
    open ? ['vectors', raw] : null,
    () => ask(raw),
  )
  const save = async () => {
    const { text } = made ?? (await ask(raw))
    saveFile(`${slug}.vectors.json`, 'application/json', text)
  }
  return (
    <section aria-label="Conformance cases">
      <h2>Conformance cases</h2>
      <p>
        Small situations with what a loader of these rules does in each: given these events, expect these starts and
        cancellations. The runner drives a loader in any language with them: <code>tug vectors run</code>.
      </p>
      <div className="tt-source-line">
        <Chip aria-label="save the conformance cases" onClick={() => void save()}>
          save
        </Chip>
        <Chip aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'hide the cases' : 'read the cases'}
        </Chip>
      </div>
      {error && <p role="alert">The cases cannot be made: {error.message}</p>}
      {open && made && (
        <Table size="sm" className="tt-vectors">
          <tbody>
            {clauses.flatMap((clause) => {
              const own = made.file.cases.filter((each) => each.clause === clause)
              const scripted = own.filter(({ id }) => !id.includes('/random-'))
              const more = own.length - scripted.length
              return [
                ...scripted.map((each, i) => (
                  <tr key={each.id}>
                    <th scope="row">{i === 0 ? clause : ''}</th>
                    <td>{each.why}</td>
                    <td className="tt-quiet">{each.steps.length} steps</td>
                  </tr>
                )),
                ...(more > 0
                  ? [
                      <tr key={`${clause} random`}>
                        <th scope="row" />
                        <td className="tt-quiet">and {more} random ones</td>
                        <td />
                      </tr>,
                    ]
                  : []),
              ]
            })}
          </tbody>
        </Table>
      )}
    </section>
  )
}

const ask = (raw: Parameters<typeof runWorker.ask<'vectors'>>[1]['raw']) => runWorker.ask('vectors', { raw }).result
