import { hostMatches } from '../loading/hosts.ts'
import type { Loading } from '../project/types.ts'
import type { Us } from '../worlds/ports.ts'

/** Size of the answer to a renewal, bytes. */
export const renewalBytes = 600

/** The credentials that hosts issue and expire: the same model refuses in the virtual world and at the origin. */
export class Credentials {
  private readonly issued: { host: string; lastsUs: Us; since: Us }[]

  constructor(headers: readonly Pick<Loading['headers'][number], 'host' | 'lastsS'>[]) {
    this.issued = headers.flatMap(({ host, lastsS }) =>
      lastsS === null ? [] : [{ host, lastsUs: lastsS * 1e6, since: 0 }],
    )
  }

  /** Whether a host no longer accepts what it issued last. */
  refuses(host: string, now: Us): boolean {
    return this.issued.some((each) => hostMatches(each.host, host) && now - each.since >= each.lastsUs)
  }

  renew(host: string, now: Us): void {
    for (const each of this.issued) if (hostMatches(each.host, host)) each.since = now
  }
}
