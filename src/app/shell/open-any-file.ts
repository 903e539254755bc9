import { openRunLog } from '../store/open-run-log.ts'
import { openText, notify } from '../store/project-store.ts'

/** The kind of a file, by its content. */
type FileKind = 'project' | 'run' | 'everything' | 'picture' | 'feed'

/** The first bytes of a file that are examined. */
const lookedAt = 262_144

/** Recognises a file by how it begins, whatever its name. */
async function kindOfFile(file: Blob): Promise<FileKind> {
  const head = new Uint8Array(await file.slice(0, lookedAt).arrayBuffer())
  if (head[0] === 0x50 && head[1] === 0x4b && head[2] === 3 && head[3] === 4) return 'everything'
  if (/^(image|video)\//.test(file.type)) return 'picture'
  const said = /"format"\s*:\s*"tile-tug\/(project|run)"/.exec(new TextDecoder().decode(head))
  return (said?.[1] as 'project' | 'run' | undefined) ?? 'feed'
}

/**
 * Opens a file by its kind; `go` leads to the step that shows it. `asked`: the kind that the user picked it as, where
 * its content does not say otherwise.
 */
export async function openAnyFile(
  file: File,
  go: (path: string) => void,
  asked: 'project' | 'feed' = 'feed',
): Promise<void> {
  try {
    const found = await kindOfFile(file)
    const kind = found === 'feed' ? asked : found
    switch (kind) {
      case 'project':
        return await openText(file.name, await file.text())
      case 'everything': {
        const { importEverything } = await import('../store/everything.ts')
        return await importEverything(file)
      }
      case 'run':
        if ((await openRunLog(file)) > 0) go('/profile')
        return
      case 'picture':
      case 'feed':
        go('/feed')
        return await openInFeed(kind === 'picture' ? [file] : file)
    }
  } catch (error) {
    notify(`${file.name} was not opened: ${error instanceof Error ? error.message : String(error)}`)
  }
}

/** A feed, or pictures that become one; the code that opens them is loaded when it is needed. */
export async function openInFeed(what: File | File[]): Promise<void> {
  const { openFile, openPictures } = await import('../feed/open-feed.ts')
  await (Array.isArray(what) ? openPictures(what) : openFile(what))
}
