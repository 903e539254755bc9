/** The median and spread of some runs' times, ms. */
export interface Timed {
  median: number
  min: number
  max: number
}

/** Times a function over so many runs, after one that does not count. */
export function time(runs: number, work: () => void): Timed {
  work()
  const times = Array.from({ length: runs }, () => {
    const start = performance.now()
    work()
    return performance.now() - start
  }).sort((a, b) => a - b)
  return { median: times[Math.floor(runs / 2)]!, min: times[0]!, max: times.at(-1)! }
}

/** Times two functions in turn, A B A B …, so that a drift of the machine meets both. */
export function pair(runs: number, a: () => void, b: () => void): { a: Timed; b: Timed; ratio: number } {
  a()
  b()
  const times: [number[], number[]] = [[], []]
  for (let i = 0; i < runs; i++)
    for (const [side, work] of [a, b].entries()) {
      const start = performance.now()
      work()
      times[side]!.push(performance.now() - start)
    }
  const ratios = times[0].map((one, i) => one / times[1][i]!).sort((x, y) => x - y)
  const timed = (list: number[]): Timed => {
    const sorted = [...list].sort((x, y) => x - y)
    return { median: sorted[Math.floor(runs / 2)]!, min: sorted[0]!, max: sorted.at(-1)! }
  }
  return { a: timed(times[0]), b: timed(times[1]), ratio: ratios[Math.floor(runs / 2)]! }
}

export interface Line {
  what: string
  value: string
  target: string
  ok: boolean
  note: string
}

export const fixed = (value: number, digits = 2) => value.toFixed(digits)
export const spread = ({ median, min, max }: Timed) => `${fixed(median, 1)} ms (${fixed(min, 1)}–${fixed(max, 1)})`
