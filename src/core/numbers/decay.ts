/**
 * e^−x for x ≥ 0 from + − × ÷ alone, so that Node and every browser agree to the last bit (Math.exp differs
 * by an ulp). Halves x until it is small, sums the series, squares back. Relative error below 1e-13.
 */
export function decay(x: number): number {
  if (x <= 0) return 1
  if (x > 700) return 0
  let halvings = 0
  let small = x
  while (small > 0.125) {
    small *= 0.5
    halvings++
  }
  let sum = 1
  for (let n = 12; n > 0; n--) sum = 1 - (small / n) * sum
  while (halvings-- > 0) sum *= sum
  return sum
}
