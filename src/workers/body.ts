/**
 * An encoded picture as it came, in memory that the page and its workers share: it is handed on without a copy, and
 * without the browser's own process, which keeps a blob's bytes and is asked for them at every read.
 */
export interface SharedBody {
  /** Media type, in lower case. */
  type: string
  bytes: Uint8Array<SharedArrayBuffer>
}

/** A picture's body. A file of this machine is read only where it is decoded. */
export type Body = Blob | SharedBody

/** Puts what came in parts into shared memory. */
export function sharedBody(type: string, parts: readonly Uint8Array[]): SharedBody {
  const bytes = new Uint8Array(new SharedArrayBuffer(parts.reduce((sum, { length }) => sum + length, 0)))
  let at = 0
  for (const part of parts) {
    bytes.set(part, at)
    at += part.length
  }
  return { type: type.toLowerCase(), bytes }
}

/** A copy of its bytes, the first `most` of them: what decodes or stores them takes no shared memory. */
export const bytesOf = async (body: Body, most = Infinity): Promise<Uint8Array<ArrayBuffer>> =>
  body instanceof Blob ? new Uint8Array(await body.slice(0, most).arrayBuffer()) : body.bytes.slice(0, most)

/** As a blob, for what reads nothing else. */
export const blobOf = (body: Body): Blob =>
  body instanceof Blob ? body : new Blob([body.bytes.slice()], { type: body.type })
