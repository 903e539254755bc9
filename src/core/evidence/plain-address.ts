/** Host and parent path of an address, unchanged. */
export function parentOf(address: string): string {
  const path = address.split(/[?#]/, 1)[0]!
  return path.slice(0, path.lastIndexOf('/') + 1)
}

export function hostOf(address: string): string {
  return /^[a-z][\w+.-]*:\/\/([^/?#]*)/i.exec(address)?.[1]?.toLowerCase() ?? ''
}

/** A reference resolved against an address (RFC 3986, 5.2, without dot segments). */
export function resolveAgainst(base: string, to: string): string {
  if (/^[a-z][\w+.-]*:/i.test(to)) return to
  const origin = /^[a-z][\w+.-]*:\/\/[^/?#]*/i.exec(base)?.[0] ?? ''
  if (to.startsWith('//')) return base.slice(0, base.indexOf(':') + 1) + to
  if (to.startsWith('/')) return origin + to
  if (to.startsWith('?')) return base.split(/[?#]/, 1)[0]! + to
  return parentOf(base) + to
}
