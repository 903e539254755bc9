/** The rates of displays, Hz: what was measured is taken for one of them when it is near. */
const usualRates = [30, 50, 60, 72, 75, 90, 120, 144, 165, 240]
/** So many intervals that are alike are no chance. */
const alike = 3

/** The page's refresh rate, Hz, from the intervals between some frames. */
export async function measureRefresh(samples = 20): Promise<number> {
  const times: number[] = []
  while (times.length <= samples) times.push(await new Promise<number>((resolve) => requestAnimationFrame(resolve)))
  return refreshOf(times.slice(1).map((time, i) => time - times[i]!))
}

/**
 * The rate behind intervals between frames, Hz. Frames come late and never early: on a busy page most may be left out,
 * and the usual interval is then a multiple of one refresh.
 *
 * @param intervals ms, at least three
 */
export function refreshOf(intervals: readonly number[]): number {
  const sorted = [...intervals].sort((one, other) => one - other)
  const usual = middle(sorted)
  const refreshes = Math.max(1, Math.round(usual / Math.max(1, sorted[alike - 1]!)))
  const single = sorted.filter((interval) => Math.round((interval * refreshes) / usual) === 1)
  const hz = 1000 / Math.max(1, middle(single))
  return usualRates.find((rate) => Math.abs(rate - hz) < rate * 0.04) ?? Math.round(hz)
}

const middle = (sorted: readonly number[]) => sorted[Math.floor(sorted.length / 2)]!
