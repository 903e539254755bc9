/**
 * Every metric, defined once: its unit and meaning, and for those that are compared, what a difference in it has to be.
 * The type of all ids, the headline, the command line's table and docs/metrics.md derive from it.
 */
export type MetricUnit = 'count' | 'ms' | 'ms/s' | 'share' | 'ratio' | 'dp' | 'bytes' | 'MB' | 'row' | 'yes-no'

/** The least difference that is reported, and its weight beside those of others. */
export interface Effect {
  better: 'less' | 'more'
  /** In the metric's own unit; smaller differences are not called better or worse. */
  least: number
  /** Its weight beside other metrics, for the order of findings. */
  weight: number
  /** A difference of this size counts in full, for the order alone. */
  scale: number
}

export interface MetricDefinition {
  unit: MetricUnit
  /** One sentence, as it is in the reference. */
  means: string
  /** A short name, shown beside others. */
  name?: string
  effect?: Effect
}

const less = (least: number, weight: number, scale: number): Effect => ({ better: 'less', least, weight, scale })
const define = <const T extends Record<string, MetricDefinition>>(definitions: T) => definitions

const definitions = define({
  'frames.count': { unit: 'count', means: 'Frames presented.' },
  'frames.late': { unit: 'count', means: 'Frames presented later than due.' },
  'frames.missed': { unit: 'count', means: 'Refreshes with no new frame while one was due.' },
  'frames.lateMsPerS': {
    unit: 'ms/s',
    name: 'late while scrolling',
    means: 'How much later than due frames came, for each second of scrolling.',
    effect: less(3, 6, 60),
  },
  'frames.onTimeShare': { unit: 'share', means: 'Frames that came in time, of those while scrolling.' },
  'frames.workP50': { unit: 'ms', means: 'Main-thread work of a frame, the median.' },
  'frames.workP95': {
    unit: 'ms',
    name: 'work of a frame, 95th of 100',
    means: 'Main-thread work of a frame, 95th percentile.',
    effect: less(1, 1, 16),
  },
  'frames.workP99': { unit: 'ms', means: 'Main-thread work of a frame, 99th percentile.' },
  'frames.workMax': { unit: 'ms', means: 'Main-thread work of the longest frame.' },
  'frames.stalled': { unit: 'count', means: 'Frames that came more than 500 ms late.' },

  'pictures.exposures': { unit: 'count', means: 'Slots that entered the screen with a valid address.' },
  'pictures.absent': { unit: 'count', means: 'Slots that entered the screen without a valid address.' },
  'pictures.failed': {
    unit: 'count',
    name: 'failed',
    means: 'Exposures that ended on the failed visual.',
    effect: less(1, 5, 20),
  },
  'pictures.unseen': { unit: 'count', means: 'Exposures that ended before a picture came.' },
  'pictures.readyShare': { unit: 'share', means: 'Exposures whose picture was there when they entered the screen.' },
  'pictures.waitP50': { unit: 'ms', means: 'From entering the screen to being shown, the median.' },
  'pictures.waitP95': {
    unit: 'ms',
    name: 'wait, 95th of 100',
    means: 'From entering the screen to being shown, 95th percentile.',
    effect: less(40, 3, 1500),
  },
  'pictures.waitMax': { unit: 'ms', means: 'The longest wait on screen; one never shown counts its whole exposure.' },
  'pictures.holeShare': {
    unit: 'share',
    name: 'holes: no picture yet',
    means: 'The share of screen area and time in which a picture was still missing.',
    effect: less(0.02, 6, 0.3),
  },
  'pictures.firstScreenMs': {
    unit: 'ms',
    name: 'first screen',
    means: 'From the start of the visit, feed included, until the first screen is settled.',
    effect: less(40, 4, 1500),
  },
  'pictures.wrong': {
    unit: 'count',
    name: 'wrong pictures',
    means: 'Times a cell showed the picture of another item.',
    effect: less(1, 10, 5),
  },
  'pictures.wrongMs': { unit: 'ms', means: 'How long wrong pictures were shown, in all.' },
  'pictures.jumps': {
    unit: 'count',
    name: 'jumps',
    means: 'Moves of what is on screen caused by a late size.',
    effect: less(1, 6, 10),
  },
  'pictures.jumpDp': { unit: 'dp', means: 'How far jumps moved what is on screen, in all.' },
  'pictures.flickers': {
    unit: 'count',
    name: 'flickers',
    means: 'Shown pictures that went back to waiting, or restarted their transition, while bound to the same item.',
    effect: less(1, 5, 10),
  },
  'pictures.soft': {
    unit: 'count',
    name: 'soft pictures',
    means: 'Shown with fewer px than their slot has, by more than 1.2 a side.',
    effect: less(2, 5, 20),
  },
  'pictures.softRatio': { unit: 'ratio', means: 'Px of the slot ÷ px of the picture among soft ones, the median.' },

  'bytes.received': {
    unit: 'bytes',
    name: 'received',
    means: 'Body bytes that arrived.',
    effect: less(20_000, 4, 8_000_000),
  },
  'bytes.shown': { unit: 'bytes', means: 'Of transfers whose picture was shown.' },
  'bytes.shownEarly': {
    unit: 'bytes',
    means: 'Shown, and the transfer began while nothing on screen waited for it.',
  },
  'bytes.cutOff': { unit: 'bytes', means: 'Of transfers that were cancelled.' },
  'bytes.neverSeen': { unit: 'bytes', means: 'Complete, and no rendition of this copy was shown or used.' },
  'bytes.again': { unit: 'bytes', means: 'Complete, though an unchanged copy had been complete earlier in the visit.' },
  'bytes.failed': { unit: 'bytes', means: 'Of transfers that failed, bodies of errors included.' },
  'bytes.revalidated': { unit: 'bytes', means: 'Of 200 answers to conditional requests.' },
  'bytes.open': { unit: 'bytes', means: 'Of transfers that still ran when the visit ended.' },
  'bytes.unknown': {
    unit: 'bytes',
    means: 'Of a recorded run: complete, and its sources do not show whether the picture was seen.',
  },
  'bytes.wastedShare': {
    unit: 'share',
    name: 'of bytes nobody saw',
    means: 'Bytes that failed, were cut off, came again or were never seen, of all received.',
    effect: less(0.02, 4, 0.4),
  },
  'bytes.wastedAtLeastShare': {
    unit: 'share',
    means: 'The part of that which is known, of all received: less than it while some bytes are unknown.',
  },
  'bytes.inFlight': { unit: 'bytes', means: 'Sent for cancelled transfers and never received; outside the sum.' },
  'bytes.oversize': { unit: 'bytes', means: 'Bytes of shown pictures that their largest slot had no px for.' },

  'requests.total': { unit: 'count', means: 'Requests that the loader made.' },
  'requests.shown': { unit: 'count', means: 'Their picture was shown.' },
  'requests.shownEarly': { unit: 'count', means: 'Shown, and begun while nothing on screen waited for it.' },
  'requests.cutOff': { unit: 'count', means: 'Cancelled after their first byte.' },
  'requests.neverSeen': { unit: 'count', means: 'Complete, and their picture was never shown.' },
  'requests.again': { unit: 'count', means: 'Complete, though an unchanged copy had been complete earlier.' },
  'requests.failed': { unit: 'count', means: 'Failed for good.' },
  'requests.revalidated': { unit: 'count', means: 'Revalidated a copy, and got a new one.' },
  'requests.open': { unit: 'count', means: 'Still open when the visit ended.' },
  'requests.unknown': { unit: 'count', means: 'Of a recorded run: complete, and not known to have been seen or not.' },
  'requests.cancelledFree': { unit: 'count', means: 'Cancelled before a byte had arrived.' },
  'requests.cancelledFreeMs': { unit: 'ms', means: 'Time in which those held a slot.' },
  'requests.fromDisk': { unit: 'count', means: 'Answered by the disk tier.' },
  'requests.retries': { unit: 'count', name: 'retries', means: 'Tries after the first one.', effect: less(1, 2, 30) },
  'requests.wastedShare': {
    unit: 'share',
    means: 'Failed, cut off, again and never seen, of all that started and were neither cancelled free nor left open.',
  },
  'requests.peakActive': { unit: 'count', means: 'The most that ran at once.' },
  'requests.inversionMs': {
    unit: 'ms',
    means: 'Time in which an on-screen request waited for a slot that one of a lower class held.',
  },

  'decode.count': { unit: 'count', means: 'Decodes.' },
  'decode.ms': { unit: 'ms', name: 'decoding', means: 'Time spent decoding, in all.', effect: less(20, 3, 2500) },
  'decode.wastedMs': { unit: 'ms', means: 'Decoding whose picture was dropped before it was shown.' },
  'decode.pixelRatio': { unit: 'ratio', means: 'Px decoded ÷ px of the largest slots that they were for.' },

  'threads.mainBusyShare': { unit: 'share', means: 'Share of the visit in which the main thread worked.' },
  'threads.decodeBusyShare': { unit: 'share', means: 'Share of the decode workers’ time in which they worked.' },
  'threads.decodePeak': { unit: 'count', means: 'The most decodes at once.' },
  'threads.fetchBusyShare': { unit: 'share', means: 'Share of the fetch slots’ time in which they were in use.' },

  'cells.created': { unit: 'count', means: 'Cells made.' },
  'cells.bound': { unit: 'count', means: 'Times a cell was bound to an item.' },
  'cells.reuse': { unit: 'share', means: '1 − cells made ÷ times bound.' },
  'cells.createMs': { unit: 'ms', means: 'Main-thread time spent making cells.' },
  'cells.bindMs': { unit: 'ms', means: 'Main-thread time spent binding.' },
  'cells.lastCreateRow': { unit: 'row', means: 'The row for which the last cell was made.' },
  'cells.createdAfterFirstScreen': { unit: 'count', means: 'Cells made after the first frame.' },
  'cells.heldHits': { unit: 'count', means: 'Held cells that were wanted again for the item they held.' },

  'tier.memoryShare': { unit: 'share', means: 'Deliveries that came from memory.' },
  'tier.diskShare': { unit: 'share', means: 'Deliveries that came from disk.' },
  'tier.networkShare': { unit: 'share', means: 'Deliveries that came from the network.' },
  'tier.localShare': { unit: 'share', means: 'Deliveries of packaged and picked pictures, and of data addresses.' },
  'tier.evictions': { unit: 'count', means: 'Pictures pushed out of memory.' },
  'tier.evictedThenWanted': {
    unit: 'count',
    name: 'evicted, then wanted',
    means: 'Pictures pushed out of memory and wanted again.',
    effect: less(2, 3, 40),
  },

  'memory.startMb': { unit: 'MB', means: 'Memory in use at the start.' },
  'memory.peakMb': {
    unit: 'MB',
    name: 'memory at its peak',
    means: 'Tiers, bound pictures, transfers, garbage and base, at their most.',
    effect: less(3, 2.5, 150),
  },
  'memory.endMb': { unit: 'MB', means: 'Memory in use at the end.' },
  'memory.afterCollectMb': { unit: 'MB', means: 'Memory in use after the last step that collects garbage.' },
  'memory.afterReliefMb': { unit: 'MB', means: 'Memory in use after the last memory pressure.' },
  'memory.collections': { unit: 'count', means: 'Garbage collections.' },
  'memory.pauseMs': { unit: 'ms', means: 'Time that collections took.' },
  'memory.ended': {
    unit: 'yes-no',
    name: 'ran out of memory',
    means: '1 when the app ran out of memory and was ended.',
    effect: less(1, 12, 1),
  },
  'disk.startMb': { unit: 'MB', means: 'The disk tier at the start.' },
  'disk.peakMb': { unit: 'MB', means: 'The disk tier at its fullest.' },
  'disk.endMb': { unit: 'MB', means: 'The disk tier at the end.' },
  'disk.writtenMb': { unit: 'MB', means: 'Written to the disk tier, in all.' },

  'fidelity.requests': { unit: 'ratio', means: 'Requests, simulated ÷ live.' },
  'fidelity.bytes': { unit: 'ratio', means: 'Bytes received, simulated ÷ live.' },
  'fidelity.waitP50': { unit: 'ratio', means: 'Median wait, simulated ÷ live.' },
  'fidelity.wastedShareGap': { unit: 'share', means: 'Wasted share of bytes, simulated − live.' },
  'ledger.gapShare': {
    unit: 'share',
    means: '|bytes that the client logged − body bytes that the origin wrote| ÷ the latter.',
  },
})

export type MetricId = keyof typeof definitions
export const metricIds = Object.keys(definitions) as MetricId[]
export const metricDefinitions: Readonly<Record<MetricId, MetricDefinition>> = definitions

/** The figures of one visit. null: over nothing, or not observed. */
export type Metrics = Record<MetricId, number | null>

export const isMetricId = (text: string): text is MetricId => Object.hasOwn(definitions, text)

type Compared = {
  [Id in MetricId]: (typeof definitions)[Id] extends { effect: Effect } ? Id : never
}[MetricId]

/** The metrics in which a difference can be better or worse, in the order of their definitions. */
export const comparedIds = metricIds.filter((id): id is Compared => metricDefinitions[id].effect !== undefined)
export type ComparedId = Compared

export function effectOf(id: ComparedId): Effect {
  return metricDefinitions[id].effect!
}
