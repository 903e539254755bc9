import { failureText, vectorResults } from '../../core/vectors/results.ts'

/** The result of one case in a run: passed, or what was wrong. */
export interface OpenedResult {
  id: string
  /** null: it passed. */
  failure: string | null
}

/**
 * Reads the results of `tug vectors run`: its JSON or its JUnit file. Throws a description of what is wrong with any
 * other.
 */
export function readResults(text: string): OpenedResult[] {
  return /^\s*</.test(text) ? readJUnit(text) : readJson(text)
}

function readJson(text: string): OpenedResult[] {
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch {
    throw new Error('it is neither JSON nor XML')
  }
  const read = vectorResults.safeParse(value)
  if (!read.success) {
    const { path, message } = read.error.issues[0]!
    throw new Error(`/${path.join('/')}: ${message}; what vectors run --json or --junit writes is read here`)
  }
  return read.data.results.map((each) => ({ id: each.id, failure: each.ok ? null : failureText(each) }))
}

function readJUnit(text: string): OpenedResult[] {
  const document = new DOMParser().parseFromString(text, 'application/xml')
  const cases = [...document.querySelectorAll('testcase')]
  if (document.querySelector('parsererror') || cases.length === 0)
    throw new Error('it is XML, but not a JUnit report of cases')
  return cases.map((element) => {
    const failed = element.querySelector('failure, error')
    return {
      id: element.getAttribute('name') ?? '',
      failure: failed ? failed.getAttribute('message') || failed.textContent?.trim() || 'failed' : null,
    }
  })
}
