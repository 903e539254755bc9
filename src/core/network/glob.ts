/**
 * Whether a text matches a pattern: `*` is any run of characters, `?` any one. On a mismatch the last star takes one
 * more character, and only the last star ever does: no pattern takes longer than its length times the text's.
 */
export function matchesGlob(pattern: string, text: string): boolean {
  let p = 0
  let star = -1
  let starAt = 0
  for (let t = 0; t < text.length;) {
    if (pattern[p] === '*') {
      star = p++
      starAt = t
    } else if (p < pattern.length && (pattern[p] === '?' || pattern[p] === text[t])) {
      p++
      t++
    } else if (star >= 0) {
      p = star + 1
      t = ++starAt
    } else return false
  }
  while (pattern[p] === '*') p++
  return p === pattern.length
}
