import type { RunLog } from '../log/run-log.ts'
import { checkRun, type Check } from './figures/checks.ts'
import type { Facts } from './facts/facts.ts'
import { keepLedger, type Ledger } from './figures/ledger.ts'
import { measure } from './figures/metrics.ts'
import type { Metrics } from './figures/metric-definitions.ts'
import { readFacts } from './facts/read-facts.ts'

/** The complete answer about one visit; a pure function of its log. */
export interface Profile {
  facts: Facts
  ledger: Ledger
  metrics: Metrics
  checks: Check[]
}

export function profileRun(log: RunLog): Profile {
  const measured = measureRun(log)
  return { ...measured, checks: checkRun(measured.facts, measured.ledger) }
}

/** The figures of a visit without its checks, where many are made and only figures are compared. */
export function measureRun(log: RunLog): Omit<Profile, 'checks'> {
  const counted = countRun(log)
  return { ...counted, metrics: measure(counted.facts, counted.ledger) }
}

/** The input of a map, from a run that need not be over. */
export function countRun(log: RunLog): Pick<Profile, 'facts' | 'ledger'> {
  const facts = readFacts(log)
  return { facts, ledger: keepLedger(facts) }
}
