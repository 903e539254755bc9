/** A part of the app could not be loaded: the server is away, or the app was rebuilt under the open page. */
export function isMissingChunk(error: unknown): boolean {
  const message = error instanceof Error ? error.message : String(error)
  return /dynamically imported module|importing a module script|module script failed|preload CSS/i.test(message)
}

export type ServerState = 'away' | 'same' | 'rebuilt'

/** Whether the server answers, and with the same build of the app as this page has. */
export async function serverState(): Promise<ServerState> {
  const own = document.querySelector<HTMLScriptElement>('script[type="module"][src]')?.getAttribute('src')
  try {
    const { ownServer } = await import('../../live/own-server.ts')
    const page = await ownServer.get('/', { cache: 'no-store', timeout: 5000, retry: 0 }).text()
    return !own || page.includes(`"${own}"`) ? 'same' : 'rebuilt'
  } catch {
    return 'away'
  }
}
