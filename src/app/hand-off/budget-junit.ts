import type { Sheet } from '../../core/handoff/sheet.ts'

/** Budgets as a JUnit report with the texts of `check --junit`: a test case for each, with what breaks it. */
export function budgetJUnit(name: string, budgets: Sheet['budgets']): string {
  const report = document.implementation.createDocument(null, 'testsuites')
  const add = (parent: Element, tag: string, attributes: Record<string, string | number>) => {
    const element = report.createElement(tag)
    for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, String(value))
    return parent.appendChild(element)
  }
  const failures = budgets.filter(({ ok }) => !ok).length
  const totals = { tests: budgets.length, failures, errors: 0, skipped: 0 }
  for (const [key, value] of Object.entries(totals)) report.documentElement.setAttribute(key, String(value))
  const suite = add(report.documentElement, 'testsuite', { name, ...totals })
  for (const { budget, ok, message } of budgets) {
    const screen = budget.screen ? ` (${budget.screen})` : ''
    const test = add(suite, 'testcase', { classname: budget.visit, name: `${budget.metric}${screen}` })
    if (!ok) add(test, 'failure', { message })
  }
  return `<?xml version="1.0" encoding="UTF-8"?>\n${new XMLSerializer().serializeToString(report)}\n`
}
