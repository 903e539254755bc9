import { Fragment, useRef, useState } from 'react'
import Table from 'react-bootstrap/Table'
import useSWRImmutable from 'swr/immutable'
import { clauses, type VectorCase } from '../../core/vectors/protocol.ts'
import { Chip } from '../controls/Chip.tsx'
import { FilePicker } from '../controls/FilePicker.tsx'
import { TextButton } from '../controls/TextButton.tsx'
import { runWorker } from '../simulate/worker-client.ts'
import { notify, useProject } from '../store/project-store.ts'
import { saveFile } from '../store/save-file.ts'
import { CaseMap } from './CaseMap.tsx'
import { readResults, type OpenedResult } from './vector-results.ts'

interface Results {
  file: string
  /** By the id of the case. */
  of: ReadonlyMap<string, OpenedResult>
}

/**
 * Conformance cases for the app's own loader: what each is about, the file that the runner takes, and the results of a
 * run.
 */
export function Vectors({ slug }: { slug: string }) {
  const { effective: raw } = useProject()!
  const [open, setOpen] = useState(false)
  const picker = useRef<HTMLInputElement>(null)
  const [results, setResults] = useState<Results | null>(null)
  const { data: made, error } = useSWRImmutable<Awaited<ReturnType<typeof ask>>, Error>(
    open ? ['vectors', raw] : null,
    () => ask(raw),
  )
  const save = async () => {
    const { text } = made ?? (await ask(raw))
    saveFile(`${slug}.vectors.json`, 'application/json', text)
  }
  const openResults = async (file: File) => {
    try {
      const read = readResults(await file.text())
      setResults({ file: file.name, of: new Map(read.map((each) => [each.id, each])) })
      setOpen(true)
    } catch (failure) {
      notify(`${file.name} was not opened: ${failure instanceof Error ? failure.message : String(failure)}`)
    }
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
        <Chip
          data-explain="What tug vectors run has written with --json or --junit"
          onClick={() => picker.current?.click()}
        >
          open results
        </Chip>
        <FilePicker
          ref={picker}
          label="Results of the cases"
          accept=".json,.xml"
          onFiles={([file]) => void openResults(file!)}
        />
      </div>
      {error && <p role="alert">The cases cannot be made: {error.message}</p>}
      {open && made && <Cases cases={made.file.cases} results={results} />}
    </section>
  )
}

/** Scripted cases, and those random ones that failed; the other random ones are counted. */
function Cases({ cases, results }: { cases: readonly VectorCase[]; results: Results | null }) {
  const [shown, setShown] = useState<string | null>(null)
  const failureOf = (id: string) => results?.of.get(id)?.failure ?? null
  const answered = cases.filter(({ id }) => results?.of.has(id))
  const failed = answered.filter(({ id }) => failureOf(id) !== null).length
  const others = results ? [...results.of.keys()].filter((id) => !cases.some((each) => each.id === id)).length : 0
  return (
    <>
      {results && (
        <p role="status">
          <strong>{results.file}</strong>: {answered.length - failed} passed, {failed} failed
          {others > 0 && `; ${others} are of other cases than those of the project as it is now`}
        </p>
      )}
      <Table size="sm" className="tt-vectors">
        <tbody>
          {clauses.flatMap((clause) => {
            const own = cases.filter((each) => each.clause === clause)
            const listed = own.filter(({ id }) => !id.includes('/random-') || failureOf(id) !== null)
            const more = own.length - listed.length
            return [
              ...listed.map((each, i) => (
                <Fragment key={each.id}>
                  <tr>
                    <th scope="row">{i === 0 ? clause : ''}</th>
                    <td>
                      <TextButton
                        aria-expanded={shown === each.id}
                        onClick={() => setShown(shown === each.id ? null : each.id)}
                      >
                        {each.why}
                      </TextButton>
                      {failureOf(each.id) !== null && <div className="tt-case-failure">{failureOf(each.id)}</div>}
                    </td>
                    <td>
                      <CaseMap of={each} />
                    </td>
                    <td className="tt-quiet">
                      {results ? outcomeOf(results.of.get(each.id)) : `${each.steps.length} steps`}
                    </td>
                  </tr>
                  {shown === each.id && (
                    <tr>
                      <td />
                      <td colSpan={3}>
                        <CaseSteps of={each} />
                      </td>
                    </tr>
                  )}
                </Fragment>
              )),
              ...(more > 0
                ? [
                    <tr key={`${clause} random`}>
                      <th scope="row" />
                      <td className="tt-quiet" colSpan={3}>
                        and {more} random ones
                      </td>
                    </tr>,
                  ]
                : []),
            ]
          })}
        </tbody>
      </Table>
    </>
  )
}

function outcomeOf(result: OpenedResult | undefined): string {
  if (!result) return 'not in the results'
  return result.failure === null ? '✓ passed' : '✕ failed'
}

/** The steps of a case, and a loader's answers to them. */
function CaseSteps({ of }: { of: VectorCase }) {
  return (
    <ol className="tt-case-steps">
      {of.steps.map(({ at, do: what, ...fields }, i) => (
        <li key={i}>
          <span className="tt-quiet">{at} ms</span> {what}{' '}
          {Object.entries(fields)
            .map(([name, value]) => `${name} ${value}`)
            .join(', ')}
          {' → '}
          <strong>
            {of.expect[i]?.length ? of.expect[i].map((output) => JSON.stringify(output)).join(' ') : 'nothing'}
          </strong>
        </li>
      ))}
    </ol>
  )
}

const ask = (raw: Parameters<typeof runWorker.ask<'vectors'>>[1]['raw']) => runWorker.ask('vectors', { raw }).result
