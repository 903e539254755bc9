import { sheetHtml } from '../core/handoff/sheet-html.ts'
import { sheetMarkdown } from '../core/handoff/sheet-markdown.ts'
import { sheetOf } from '../core/handoff/sheet.ts'
import type { Item, Project } from '../core/project/types.ts'
import { projectWith } from '../core/sweep/setting.ts'
import { badInput } from './fault.ts'
import { loadFile, outsideItems, pickScreen, pickScript, wholeNumber } from './load-project.ts'
import { writeText } from './write-text.ts'

export interface HandoffOptions {
  seeds: string
  screen?: string
  script?: string
  md?: string
  html?: string
}

/** The items of every screen that is simulated: the sheet's own, and those of budgets. */
async function itemsOf(file: string, project: Project, own: string): Promise<Map<string, readonly Item[] | null>> {
  const ids = new Set([own, ...project.budgets.map(({ screen }) => screen ?? project.screens[0]!.id)])
  const found = new Map<string, readonly Item[] | null>()
  for (const id of ids) found.set(id, await outsideItems(file, pickScreen(file, project, id)))
  return found
}

/** `tug handoff`: the sheet for the app's code, as Markdown on stdout or into files. */
export async function handoffCommand(
  file: string,
  { seeds, screen: screenId, script, md, html }: HandoffOptions,
): Promise<void> {
  const raw = await loadFile(file)
  const outcome = projectWith(raw, [])
  if (!outcome.ok) throw badInput(`${file}: ${outcome.message}`)
  const screen = pickScreen(file, outcome.project, screenId)
  const sheet = await sheetOf({
    raw,
    screen: screen.id,
    script: pickScript(file, outcome.project, script),
    seeds: wholeNumber('--seeds', seeds, 1, 1000),
    items: await itemsOf(file, outcome.project, screen.id),
  })
  const text = sheetMarkdown(sheet!)
  if (md !== undefined) await writeText('--md', md, text)
  if (html !== undefined) await writeText('--html', html, sheetHtml(sheet!))
  if (md === undefined && html === undefined) process.stdout.write(text)
}
