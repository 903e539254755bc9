/**
 * Whether a host (with or without its port) matches a pattern: itself, or `*.example.test` for every host below. Case
 * does not matter.
 */
export function hostMatches(pattern: string, host: string): boolean {
  const wanted = pattern.toLowerCase()
  const given = host.toLowerCase()
  const portless = given.replace(/:\d+$/, '')
  if (wanted.startsWith('*.')) return given.endsWith(wanted.slice(1)) || portless.endsWith(wanted.slice(1))
  return wanted === given || wanted === portless
}

/** On the device already: in the app's package, or a picked file. */
export const isLocal = (address: string) => /^(data|packaged|local):/i.test(address)
