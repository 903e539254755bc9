import { randomBytes } from 'node:crypto'
import type { NetworkSettings } from '../../core/project/types.ts'
import type { SecretHeader } from '../relay/relay-fetch.ts'
import { OriginSession } from './session.ts'
import type { Context } from 'koa'
import { sessionLost, sessionLostHeader } from '../../core/network/origin-headers.ts'

const mostSessions = 100
const forgetAfterMs = 3_600_000
/** A session that was used within this is in use, whether anything is under way or not, ms. */
const inUseMs = 60_000

/**
 * The origin's sessions; one that was not closed is forgotten an hour after its last use, or when room is needed and it
 * is idle.
 */
export class OriginSessions {
  private readonly sessions = new Map<string, OriginSession>()

  /** Null when a hundred sessions are in use: only idle ones make room. */
  create(
    network: NetworkSettings,
    seed: number,
    secrets: readonly SecretHeader[],
    lasting: readonly { host: string; lastsS: number | null }[],
  ): OriginSession | null {
    this.sweep()
    if (this.sessions.size >= mostSessions && !this.dropIdle()) return null
    const session = new OriginSession(randomBytes(9).toString('base64url'), network, seed, secrets, lasting)
    this.sessions.set(session.id, session)
    return session
  }

  find(id: string): OriginSession | null {
    const session = this.sessions.get(id)
    if (!session) return null
    session.lastUse = Date.now()
    session.used = true
    return session
  }

  /** The session that a request names; for one that is not there the answer lets the client open another. */
  of(ctx: Pick<Context, 'set' | 'throw'>, id: string): OriginSession {
    const session = this.find(id)
    if (session) return session
    ctx.set(sessionLostHeader, sessionLost)
    return ctx.throw(404, 'there is no such origin session; it may have been forgotten')
  }

  /** Its client is done with it; one that is not there any more is no error. */
  close(id: string): void {
    const session = this.sessions.get(id)
    if (session) this.drop(session)
  }

  closeAll(): void {
    for (const session of this.sessions.values()) session.close()
    this.sessions.clear()
  }

  private sweep(): void {
    for (const session of this.sessions.values())
      if (!session.busy && Date.now() - session.lastUse > forgetAfterMs) this.drop(session)
  }

  private dropIdle(): boolean {
    const idle = [...this.sessions.values()]
      .filter((session) => isIdle(session))
      .sort((a, b) => a.lastUse - b.lastUse)[0]
    if (!idle) return false
    this.drop(idle)
    return true
  }

  private drop(session: OriginSession): void {
    session.close()
    this.sessions.delete(session.id)
  }
}

/** Nothing is under way in it, and it was not used lately, or ever. */
const isIdle = (session: OriginSession) => !session.busy && (!session.used || Date.now() - session.lastUse > inUseMs)
