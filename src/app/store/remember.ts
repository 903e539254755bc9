/** Small values that survive a reload; where the browser keeps nothing, they last as long as the page. */
const inPage = new Map<string, string>()

export function remembered(key: string): string | null {
  try {
    return localStorage.getItem(key) ?? inPage.get(key) ?? null
  } catch {
    // Storage is refused to this page.
    return inPage.get(key) ?? null
  }
}

/** `text` null: removes it. */
export function remember(key: string, text: string | null): void {
  if (text === null) inPage.delete(key)
  else inPage.set(key, text)
  try {
    if (text === null) localStorage.removeItem(key)
    else localStorage.setItem(key, text)
  } catch {
    // Refused, or full: the value lasts as long as the page.
  }
}
