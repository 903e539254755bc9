const named = /~(\d{1,15})$/

/** A client may put its transfer's number after the session, so that it can let it go by that number: `SESSION~12`. */
export function readTransfer(text: string): { id: string; transfer: number | null } {
  const match = named.exec(text)
  return match ? { id: text.slice(0, match.index), transfer: Number(match[1]) } : { id: text, transfer: null }
}
