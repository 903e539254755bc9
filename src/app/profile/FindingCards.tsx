import Button from 'react-bootstrap/Button'
import type { Change, Finding } from '../../core/compare/prove.ts'
import { Progress } from '../controls/Progress.tsx'
import { followed } from '../help/preferences.ts'
import { figureOf } from '../runs/figures.ts'
import { undoLast, useHistory } from '../store/history.ts'
import { edit } from '../store/project-store.ts'
import type { Findings } from './use-findings.ts'
import { Chip } from '../controls/Chip.tsx'

interface FindingCardsProps {
  findings: Findings | null
  world: string
  /** Bytes of the world in which changes are tried ÷ those of the run; null: not known. */
  fidelity: number | null
  /** The finding whose fixed run is drawn over the present one. */
  shown: string | null
  tried: string | null
  onShow: (id: string | null) => void
  onTry: (id: string | null) => void
  /** Simulates every visit in a row. */
  onVisits: () => void
}

function whyUnproven(world: string, fidelity: number | null): string {
  if (world !== 'recorded') return 'This run’s screen or script is not in the open project'
  if (fidelity === null) return 'No world could be fitted to this recording'
  return `The fitted world has ${fidelity.toFixed(2)} × the bytes of the recorded run, which is too far off`
}

export function FindingCards({ findings, world, fidelity, shown, tried, onShow, onTry, onVisits }: FindingCardsProps) {
  const canUndo = useHistory().undo !== null
  if (findings === null) return null
  switch (findings.is) {
    case 'looking':
      return (
        <div className="tt-card tt-finding">
          <p role="status">Looking for what could be better, and simulating each change on ten seeds…</p>
          <Progress name="Proving" share={findings.share} />{' '}
          <Button size="sm" variant="outline-secondary" onClick={findings.cancel}>
            Cancel
          </Button>
        </div>
      )
    case 'failed':
      return (
        <p className="tt-card" role="alert">
          The findings could not be proven: {findings.why}
        </p>
      )
    case 'cancelled':
      return <p className="tt-card">Looking for findings was cancelled.</p>
    case 'suspected':
      return (
        <section className="tt-findings" aria-label="Findings" tabIndex={0}>
          <p className="tt-card">
            {whyUnproven(world, fidelity)}, so nothing can be proven on it: these are suspicions only.
          </p>
          {findings.suspicions.map(({ id, what, evidence }) => (
            <article key={id} className="tt-card tt-finding" aria-label={what}>
              <div>
                <h2>{what}</h2>
                <p>{evidence}</p>
              </div>
            </article>
          ))}
        </section>
      )
    case 'found':
      return (
        <section className="tt-findings" aria-label="Findings" tabIndex={0}>
          {findings.findings.length === 0 && (
            <p className="tt-card">
              No change that was tried is proven better
              {findings.unproven > 0
                ? `: ${findings.unproven} ${findings.unproven === 1 ? 'suspicion' : 'suspicions'} showed no gain beyond noise, or cost more than it gained`
                : ''}
              .
            </p>
          )}
          {findings.untried.map(({ what, why }) => (
            <p key={what} className="tt-card">
              {what} This could not be tried: {why}
            </p>
          ))}
          {findings.findings.map((finding, i) => (
            <article
              key={finding.id}
              className="tt-card tt-finding"
              data-shown={shown === finding.id ? '' : undefined}
              aria-label={finding.what}
            >
              <div>
                <h2>
                  <span className="tt-pin" aria-hidden>
                    {i + 1}
                  </span>{' '}
                  {finding.what}
                </h2>
                <p>{finding.evidence}</p>
                <p>
                  <strong>{capital(finding.change)}:</strong> <ChangeText change={finding.proof} />
                  {finding.gains.map((change) => (
                    <span key={change.metric}>
                      ; <ChangeText change={change} />
                    </span>
                  ))}
                  {finding.costs.length > 0 ? (
                    <em>
                      {' '}
                      It costs:{' '}
                      {finding.costs.map((change, c) => (
                        <span key={change.metric}>
                          {c > 0 && '; '}
                          <ChangeText change={change} />
                        </span>
                      ))}
                      .
                    </em>
                  ) : (
                    '.'
                  )}
                  {finding.other !== undefined && ' No setting was changed: judge settings by both visits.'}
                  <span className="tt-quiet">
                    {' '}
                    {world === 'simulated' ? 'M' : 'Proof is simulated: m'}edian of {finding.seeds} seeds, 95 % within{' '}
                    {interval(finding)}.
                  </span>
                </p>
              </div>
              <div className="tt-finding-acts">
                <FindingAct {...{ finding, tried, canUndo, onTry, onVisits }} />
                <Chip
                  aria-pressed={shown === finding.id}
                  data-explain="Drawn over the present run"
                  onClick={() => onShow(shown === finding.id ? null : finding.id)}
                >
                  {finding.other === undefined ? 'fixed run' : 'that visit'}
                </Chip>
              </div>
            </article>
          ))}
        </section>
      )
  }
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1)

function ChangeText({ change }: { change: Change }) {
  const figure = figureOf(change.metric)
  const form = (value: number) => {
    const { text, unit } = figure.form(value)
    return unit ? `${text} ${unit}` : text
  }
  return (
    <span tabIndex={0} data-explain={figure.explain}>
      {figure.name} {form(change.before)} → <strong>{form(change.after)}</strong>
    </span>
  )
}

function interval({ proof }: Finding): string {
  const figure = figureOf(proof.metric)
  const form = (value: number) => `${value < 0 ? '−' : '+'}${figure.form(Math.abs(value)).text}`
  return `${form(proof.difference.low)} … ${form(proof.difference.high)} ${figure.form(0).unit}`.trim()
}

type FindingActProps = Pick<FindingCardsProps, 'tried' | 'onTry' | 'onVisits'> & { finding: Finding; canUndo: boolean }

/** What to do about a finding: apply its setting or revert it; where none is at fault, look at the visits. */
function FindingAct({ finding, tried, canUndo, onTry, onVisits }: FindingActProps) {
  if (finding.other !== undefined)
    return (
      <Button
        size="sm"
        variant="outline-primary"
        data-explain="Simulates the first visit, the one after a restart and the one after that, to be shown side by side in Tiers"
        onClick={onVisits}
      >
        Simulate the visits
      </Button>
    )
  if (tried === finding.id)
    return (
      <Button
        size="sm"
        variant="outline-primary"
        disabled={!canUndo}
        onClick={() => {
          void undoLast()
          onTry(null)
        }}
      >
        Undo it
      </Button>
    )
  return (
    <Button
      size="sm"
      data-hint="try"
      onClick={() => {
        followed('try')
        edit(`try ${finding.id}`, finding.patch)
        onTry(finding.id)
      }}
    >
      Try this
    </Button>
  )
}
