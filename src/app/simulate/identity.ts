const known = new WeakMap<object, number>()
let last = 0

/** A number for an object that is not changed: a key for what is asked about it, without reading a long project through. */
export function identityOf(object: object): number {
  const before = known.get(object)
  if (before !== undefined) return before
  known.set(object, ++last)
  return last
}
