/** Whether a host is meant by a pattern: itself, or `*.example.test` for every host below. Case does not matter. */
export function hostMatches(pattern: string, host: string): boolean {
  const wanted = pattern.toLowerCase()
  const given = host.toLowerCase()
  if (wanted.startsWith('*.')) return given.endsWith(wanted.slice(1))
  return wanted === given || wanted === given.replace(/:\d+$/, '')
}
