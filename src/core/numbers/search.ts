/** How many of some ascending numbers are at most a bound. */
export function countUpTo(ascending: ArrayLike<number>, bound: number): number {
  let low = 0
  let high = ascending.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (ascending[middle]! <= bound) low = middle + 1
    else high = middle
  }
  return low
}
