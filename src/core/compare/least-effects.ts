/** What a difference in a metric has to be, to be worth saying; and which way is better. */
export interface Effect {
  better: 'less' | 'more'
  /** In the metric's own unit; smaller differences are not called better or worse. */
  least: number
  /** How much it matters beside the others, for the order in which findings stand. */
  weight: number
  /** Above which the whole counts as all of it, for the order alone. */
  scale: number
}

/** The metrics that findings are about and what they may cost; a least effect beside each. */
export const effects: Readonly<Record<string, Effect>> = {
  'pictures.wrong': { better: 'less', least: 1, weight: 10, scale: 5 },
  'memory.ended': { better: 'less', least: 1, weight: 12, scale: 1 },
  'pictures.jumps': { better: 'less', least: 1, weight: 6, scale: 10 },
  'pictures.flickers': { better: 'less', least: 1, weight: 5, scale: 10 },
  'frames.lateMsPerS': { better: 'less', least: 3, weight: 6, scale: 60 },
  'pictures.holeShare': { better: 'less', least: 0.02, weight: 6, scale: 0.3 },
  'pictures.firstScreenMs': { better: 'less', least: 40, weight: 4, scale: 1500 },
  'pictures.waitP95': { better: 'less', least: 40, weight: 3, scale: 1500 },
  'pictures.soft': { better: 'less', least: 2, weight: 5, scale: 20 },
  'pictures.failed': { better: 'less', least: 1, weight: 5, scale: 20 },
  'bytes.received': { better: 'less', least: 20_000, weight: 4, scale: 8_000_000 },
  'bytes.wastedShare': { better: 'less', least: 0.02, weight: 4, scale: 0.4 },
  'decode.ms': { better: 'less', least: 20, weight: 3, scale: 2500 },
  'memory.peakMb': { better: 'less', least: 3, weight: 2.5, scale: 150 },
  'tier.evictedThenWanted': { better: 'less', least: 2, weight: 3, scale: 40 },
  'requests.retries': { better: 'less', least: 1, weight: 2, scale: 30 },
}

/** The metrics in which a change's cost elsewhere is looked for. */
export const costMetrics = [
  'frames.lateMsPerS',
  'pictures.holeShare',
  'pictures.firstScreenMs',
  'bytes.wastedShare',
  'bytes.received',
  'memory.peakMb',
] as const
