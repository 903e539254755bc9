/** One name within a JSON Pointer (RFC 6901). */
export const escapePointer = (key: string) => key.replaceAll('~', '~0').replaceAll('/', '~1')

/** The JSON Pointer of a path. */
export const toPointer = (path: readonly PropertyKey[]) =>
  path.map((part) => `/${escapePointer(String(part))}`).join('')
