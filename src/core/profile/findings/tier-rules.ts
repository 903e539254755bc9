import { replace, kB, percent, metric, slowShare, quickShare, type Rule } from './suspicion.ts'

/** Faults of what memory and disk keep. */
export const tierRules: readonly Rule[] = [
  function smallMemory(subject) {
    const again = metric(subject, 'tier.evictedThenWanted')
    const { memoryMb } = subject.project.loading
    const none = memoryMb === 0 && subject.facts.claims.length > 0
    if (again < 4 && !none) return null
    const more = memoryMb === 0 ? 32 : memoryMb * 4
    return {
      id: 'memory-small',
      what: memoryMb === 0 ? 'Nothing that was decoded is kept.' : 'The memory tier is too small for the way back.',
      metric: 'pictures.holeShare',
      pinMs: null,
      evidence:
        memoryMb === 0
          ? `${percent(metric(subject, 'tier.memoryShare'))} of pictures came from memory; ${Math.round(metric(subject, 'decode.ms'))} ms were spent decoding.`
          : `${again} pictures were pushed out of ${memoryMb} MB and wanted again.`,
      change: `${more} MB of memory`,
      patch: [replace('/loading/memoryMb', more)],
    }
  },
  function largeMemory(subject) {
    const { memoryMb } = subject.project.loading
    const used = Math.max(0, ...subject.facts.memory.map(({ tier }) => tier)) / 1e6
    if (memoryMb < 64 || metric(subject, 'tier.memoryShare') > 0.05 || used < 24) return null
    return {
      id: 'memory-large',
      what: 'Memory is kept that is hardly ever used again.',
      metric: 'memory.peakMb',
      pinMs: null,
      evidence: `${Math.round(used)} MB were kept; ${percent(metric(subject, 'tier.memoryShare'))} of pictures came from there.`,
      change: '24 MB of memory',
      patch: [replace('/loading/memoryMb', 24)],
    }
  },
  function firstVisit(subject) {
    const empty = metric(subject, 'pictures.holeShare')
    if (subject.facts.log.head.visit !== 'first' || empty < slowShare || subject.ledger.received === 0) return null
    return {
      id: 'first-visit-only',
      what: 'It is slow on the first visit only.',
      metric: 'pictures.holeShare',
      pinMs: null,
      other: { visit: 'restarted', below: quickShare },
      patch: [],
      evidence: `${percent(empty)} of the screen was empty; ${kB(subject.ledger.received)} were fetched, and pictures waited ${Math.round(metric(subject, 'pictures.waitP95'))} ms (95th of 100).`,
      change: 'the visit after a restart, with nothing changed',
    }
  },
  function noDisk(subject) {
    const { diskMb } = subject.project.loading
    if (diskMb > 0 || subject.facts.log.head.visit === 'first') return null
    return {
      id: 'no-disk',
      what: 'Nothing is kept across visits.',
      metric: 'bytes.received',
      pinMs: null,
      evidence: `${kB(metric(subject, 'bytes.received'))} were fetched on a ${subject.facts.log.head.visit} visit.`,
      change: '120 MB of disk',
      patch: [replace('/loading/diskMb', 120)],
    }
  },
]
