import { replace, kB, percent, metric, firstMs, type Rule } from './suspicion.ts'

/** How far is looked ahead. */
export const aheadRules: readonly Rule[] = [
  function farAhead(subject) {
    const { ahead } = subject.project.loading
    const unseen = subject.ledger.bytes.neverSeen
    if (ahead.amount <= 2 || unseen < 0.1 * subject.ledger.received) return null
    return {
      id: 'ahead-too-far',
      what: 'It looks further ahead than the list goes.',
      metric: 'bytes.wastedShare',
      pinMs: firstMs(subject.facts.transfers.filter((each) => subject.ledger.transferClass[each.id] === 'neverSeen')),
      evidence: `${kB(unseen)}, ${percent(unseen / subject.ledger.received)} of all bytes, were fetched ${ahead.amount} ${ahead.by} ahead and never seen.`,
      change: 'two rows ahead',
      patch: [
        replace('/loading/ahead/by', 'rows'),
        replace('/loading/ahead/amount', 2),
        replace('/loading/ahead/direction', 'travel'),
      ],
    }
  },
  function nearAhead(subject) {
    const { ahead } = subject.project.loading
    const ready = metric(subject, 'pictures.readyShare')
    if (ahead.amount > 1 || ready > 0.6 || metric(subject, 'threads.fetchBusyShare') > 0.6) return null
    return {
      id: 'ahead-too-near',
      what: 'Pictures are requested only when they are on screen, while the link is idle.',
      metric: 'pictures.holeShare',
      pinMs: null,
      evidence: `${percent(ready)} of pictures were there when they came on screen; the slots were free ${percent(1 - metric(subject, 'threads.fetchBusyShare'))} of the time.`,
      change: 'four rows ahead, when nothing on screen waits',
      patch: [
        replace('/loading/ahead/by', 'rows'),
        replace('/loading/ahead/amount', 4),
        replace('/loading/ahead/onlyWhenIdle', true),
      ],
    }
  },
  function aheadFirst(subject) {
    const { ahead } = subject.project.loading
    if (ahead.onlyWhenIdle || ahead.amount === 0) return null
    return {
      id: 'ahead-delays-screen',
      what: 'Looking ahead takes slots and link from what is on screen.',
      metric: 'pictures.firstScreenMs',
      pinMs: 0,
      evidence: `The first screen took ${Math.round(metric(subject, 'pictures.firstScreenMs'))} ms while rows ahead of it were loading.`,
      change: 'ahead only when nothing on screen waits',
      patch: [replace('/loading/ahead/onlyWhenIdle', true)],
    }
  },
]
