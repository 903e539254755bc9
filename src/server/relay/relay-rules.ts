import ipaddr from 'ipaddr.js'
import { hostMatches } from '../../core/loading/hosts.ts'

/** The rules of the relay; it does nothing at all unless hosts were named at start. */
export interface RelayRules {
  /** Hosts as named at start: `img.example.com`, `*.cdn.example.com`. */
  hosts: readonly string[]
  /** Loopback addresses are allowed: for tests on this machine alone. */
  loopback: boolean
}

/** A refusal's message, with the status that the relay answers. */
export class Refusal extends Error {
  readonly status: number

  constructor(status: number, message: string) {
    super(message)
    this.status = status
  }
}

/** A public address at which a cloud answers with its own secrets; the others are in ranges that are refused anyway. */
const metadata = new Set(['168.63.129.16'])
const hostPattern = /^(\*\.)?[a-z0-9-]+(\.[a-z0-9-]+)*(:\d{1,5})?$/i

/** Reads `TUG_RELAY_HOSTS`; throws with what is wrong and what is allowed. */
export function readRelayHosts(text: string | undefined): string[] {
  const hosts = (text ?? '')
    .split(',')
    .map((host) => host.trim().toLowerCase())
    .filter((host) => host !== '')
  const wrong = hosts.find((host) => !hostPattern.test(host))
  if (wrong !== undefined)
    throw new Error(
      `TUG_RELAY_HOSTS: found "${wrong}", allowed: host names such as img.example.com or *.cdn.example.com, separated by commas`,
    )
  return hosts
}

/** The address to be requested, or a refusal: only http and https, only hosts that were named, no credentials. */
export function allowedUrl(text: string, rules: RelayRules): URL {
  let url: URL
  try {
    url = new URL(text)
  } catch {
    throw new Refusal(400, `"${text.slice(0, 200)}" is not an absolute address`)
  }
  if (url.protocol !== 'http:' && url.protocol !== 'https:')
    throw new Refusal(403, `the relay uses http and https, not ${url.protocol}`)
  if (url.username !== '' || url.password !== '')
    throw new Refusal(403, 'the address carries credentials; name a header with a secret instead')
  if (!rules.hosts.some((pattern) => hostMatches(pattern, url.host)))
    throw new Refusal(
      403,
      `${url.host} was not named when the server was started; name it: TUG_RELAY_HOSTS=${url.hostname} npm start`,
    )
  return url
}

/** Refuses private, loopback, link-local, metadata and all other ranges that are not public. */
export function checkAddress(address: string, rules: RelayRules): void {
  const parsed = ipaddr.process(address)
  const range = parsed.range()
  if (range === 'loopback' && rules.loopback) return
  if (range !== 'unicast' || metadata.has(parsed.toString()))
    throw new Refusal(403, `the name leads to ${address}, which is not a public address (${range})`)
}
