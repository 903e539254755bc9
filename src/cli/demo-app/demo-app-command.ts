import { feedAddresses } from '../../core/evidence/feed-addresses.ts'
import { knownItems } from '../../core/feed/known-items.ts'
import { archiveBase } from '../../core/feed/tiles.ts'
import { badInput } from '../fault.ts'
import { loadProject, outsideItems, pickScreen, wholeNumber } from '../load-project.ts'
import { EventSender } from './event-sender.ts'
import { phone, PhoneApp } from './phone-app.ts'

export interface DemoAppOptions {
  project?: string
  seed: string
  cancels: string
}

/** Rows of the app when no project defines them. */
const usualRows = 200

/** `tug demo-app`: a made-up phone app that loads its pictures through a recording and reports what it does. */
export async function demoAppCommand(base: string, options: DemoAppOptions): Promise<void> {
  const place = /^(https?:\/\/[^/]+)\/recordings\/([\w-]+)\/?$/.exec(base)
  if (!place)
    throw badInput(
      `demo-app: found "${base}", allowed: the base address of a recording, such as http://127.0.0.1:4173/recordings/ID`,
    )
  const { cancels } = options
  if (cancels !== 'never' && cancels !== 'recycle')
    throw badInput(`--cancels: found "${cancels}", allowed: never, recycle`)
  const seed = wholeNumber('--seed', options.seed, 0, 4_294_967_295)
  const [, host, id] = place
  const root = `${host!}/recordings/${id!}`
  const addresses = await addressesOf(root, options.project)
  // The clock of a phone began with the phone.
  const now = () => performance.now() + 86_400_000
  const api = `${host!}/api/recordings/${id!}`
  const sender = new EventSender(`${api}/events`, { app: 'Demo app', ...phone }, now)
  const app = new PhoneApp({ base: root, letGo: `${api}/let-go`, addresses, seed, cancels, now }, sender)
  try {
    const counts = await app.run()
    process.stdout.write(`${JSON.stringify({ ...counts, events: sender.sent })}\n`)
  } catch (error) {
    throw badInput(`demo-app: ${base} does not answer as a recording does: ${(error as Error).message}`)
  }
}

async function addressesOf(root: string, file: string | undefined): Promise<string[]> {
  if (file === undefined) return Array.from({ length: usualRows }, (_, n) => `${root}/tiles/${n}?width=720&as=webp`)
  const { project } = await loadProject(file, undefined)
  const screen = pickScreen(file, project, undefined)
  const items = (await outsideItems(file, screen)) ?? knownItems(screen.feed) ?? []
  const found = feedAddresses(project, screen, items).addresses.filter((address) => address.startsWith(archiveBase))
  if (found.length === 0)
    throw badInput(
      `--project ${file}: screen "${screen.id}" has no picture of the made-up archive, which is what the demo app shows`,
    )
  return found.slice(0, 5000).map((address) => `${root}/${address.slice(archiveBase.length)}`)
}
