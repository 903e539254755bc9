import type { Page } from '@playwright/test'

type Table = 'projects' | 'runs'

/** Everything in a table of the app's database in the browser, in the order of its keys. */
export const storedIn = <Row>(page: Page, table: Table) => ask(page, table, 'getAll') as Promise<Row[]>

/** How many it holds: whoever waits for one more need not read them all again and again. */
export const countIn = (page: Page, table: Table) => ask(page, table, 'count') as Promise<number>

function ask(page: Page, table: Table, what: 'getAll' | 'count'): Promise<unknown> {
  return page.evaluate(
    async ([name, method]) => {
      const open = indexedDB.open('tile-tug')
      await new Promise((resolve, reject) => {
        open.onsuccess = resolve
        open.onerror = reject
      })
      const asked = open.result.transaction(name).objectStore(name)[method]()
      await new Promise((resolve) => (asked.onsuccess = resolve))
      open.result.close()
      return asked.result as unknown
    },
    [table, what] as const,
  )
}
