import type { VectorCase } from './protocol.ts'

/** A transfer of one address, from the step in which it starts to the one in which it ends. */
export interface CaseTransfer {
  from: number
  to: number
  end: 'received' | 'cut off' | 'failed' | 'open'
}

/** The course of one address in a case: steps are counted from 0. */
export interface CaseLane {
  address: string
  /** The first step in which a cell wants it. */
  wanted: number
  transfers: CaseTransfer[]
  /** Steps in which a cell shows it. */
  shown: number[]
  /** Steps in which a cell is notified that it failed. */
  failed: number[]
}

/** A case as lanes, one an address, in the order in which they are wanted: the scroll map of a situation. */
export function lanesOf({ steps, expect }: VectorCase): CaseLane[] {
  const lanes = new Map<string, CaseLane>()
  const wantedBy = new Map<number, string>()
  const laneOf = (address: string, step: number): CaseLane => {
    let lane = lanes.get(address)
    if (!lane) lanes.set(address, (lane = { address, wanted: step, transfers: [], shown: [], failed: [] }))
    return lane
  }
  const end = (address: string, step: number, how: CaseTransfer['end']) => {
    const running = laneOf(address, step).transfers.at(-1)
    if (running?.end === 'open') Object.assign(running, { to: step, end: how })
  }
  for (const [number, step] of steps.entries()) {
    const { address, cell } = step
    if (step.do === 'bind' && address !== undefined) {
      laneOf(address, number)
      if (cell !== undefined) wantedBy.set(cell, address)
    }
    if (step.do === 'received' && address !== undefined) end(address, number, 'received')
    if (step.do === 'failed' && address !== undefined) end(address, number, 'failed')
    for (const output of expect[number] ?? []) {
      if ('start' in output)
        laneOf(output.start, number).transfers.push({ from: number, to: steps.length, end: 'open' })
      else if ('cancel' in output) end(output.cancel, number, 'cut off')
      else if ('show' in output) laneOf(output.show, number).shown.push(number)
      else if ('fail' in output) laneOf(wantedBy.get(output.fail) ?? '', number).failed.push(number)
    }
  }
  return [...lanes.values()]
}

/** The lanes in a sentence, for screen readers. */
export function describeLanes(lanes: readonly CaseLane[]): string {
  const transfers = lanes.flatMap((lane) => lane.transfers)
  const count = (number: number, what: string) => (number === 0 ? [] : [`${number} ${what}`])
  const parts = [
    ...count(transfers.length, 'started'),
    ...count(transfers.filter((each) => each.end === 'cut off').length, 'cut off'),
    ...count(transfers.filter((each) => each.end === 'failed').length, 'failed'),
    ...count(
      lanes.reduce((sum, { shown }) => sum + shown.length, 0),
      'shown',
    ),
  ]
  return `${lanes.length} ${lanes.length === 1 ? 'picture' : 'pictures'}${parts.length > 0 ? `: ${parts.join(', ')}` : ''}`
}
