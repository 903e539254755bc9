import type { Page } from '@playwright/test'

/** Everything in a table of the app's database in the browser, in the order of its keys. */
export async function storedIn<Row>(page: Page, table: 'projects' | 'runs'): Promise<Row[]> {
  return (await page.evaluate(async (name) => {
    const open = indexedDB.open('tile-tug')
    await new Promise((resolve, reject) => {
      open.onsuccess = resolve
      open.onerror = reject
    })
    const all = open.result.transaction(name).objectStore(name).getAll()
    await new Promise((resolve) => (all.onsuccess = resolve))
    open.result.close()
    return all.result as unknown[]
  }, table)) as Row[]
}
