import type { ReadFeed, FeedOptions } from '../../core/feed/read-feed.ts'
import type { Operation } from 'fast-json-patch'
import { fieldOf } from '../../core/feed/address.ts'
import { proposeBindings } from '../../core/feed/propose-bindings.ts'
import type { Item, Screen } from '../../core/project/types.ts'
import { byHand, OriginClient } from '../../live/origin-client.ts'
import { currentDevice } from '../device/device-store.ts'
import { Cancelled, feedWorker, type Job } from '../simulate/worker-client.ts'
import { createStore } from '../store/external-store.ts'
import { keepItems, nameToKeep } from '../store/feed-store.ts'
import { keepPictures } from '../store/picked-pictures.ts'
import { currentProject, edit } from '../store/project-store.ts'
import { headersOf } from '../store/secrets.ts'
import { showSample } from './use-items.ts'

/** A file of more bytes than this is not read. */
const maxFileBytes = 200_000_000
/** A feed of fewer characters than this is kept in the project itself. */
const inlineCharacters = 200_000
const mostPages = 200
/** Of picked pictures. */
const mostPictures = 20_000

export interface Opening {
  /** Description of what is being opened; null: nothing. */
  what: string | null
  share: number
  pages: number
  /** Why the last feed was not opened, or what should be known about it. */
  message: { text: string; wrong: boolean } | null
  /** The bindings proposed for the opened feed, until they are taken or dismissed. */
  proposed: { words: string; patch: Operation[] } | null
}

const nothing: Opening = { what: null, share: 0, pages: 0, message: null, proposed: null }
const store = createStore<Opening>(nothing)
export const useOpening = store.use
let cancel: () => void = () => undefined
export const cancelOpening = () => cancel()
export const putAway = () => store.set({ ...store.get(), message: null, proposed: null })

/** Binds the values of the feed as proposed, in one change. */
export function bindAsProposed(): void {
  const { proposed } = store.get()
  if (proposed) edit('bind the feed', proposed.patch)
  putAway()
}

/** Opens a feed from a picked or dropped file. */
export function openFile(file: File): Promise<void> {
  return opening(file.name, async () => {
    if (file.size > maxFileBytes) throw new Error(`the file has ${file.size} bytes; at most ${maxFileBytes} are read`)
    const read = await readIn(file.name, file, { itemsAt: null })
    await adopt(read, file.size < inlineCharacters ? inline(read.items) : { type: 'file', name: file.name }, file.name)
  })
}

/** Opens a feed from a pasted text; a single address becomes a feed of one picture. */
export function openText(text: string): Promise<void> {
  const address = text.trim()
  if (/^https?:\/\/\S+$/i.test(address) && !address.includes('\n')) return openAddress(address)
  return opening('the pasted text', async () => {
    const read = await readIn('pasted', new Blob([text]), { itemsAt: null })
    await adopt(read, text.length < inlineCharacters ? inline(read.items) : { type: 'file', name: 'pasted' }, 'pasted')
  })
}

/** Opens a feed, with its further pages, or one picture, at an address. */
export function openAddress(address: string): Promise<void> {
  return opening(address, async (signal) => {
    if (/\.(jpe?g|png|webp|avif|gif|svg)([?#]|$)/i.test(address) || /\/tiles\/\d+([?#]|$)/.test(address)) {
      const items = [{ id: 'picture', address }]
      await adopt(
        { items, itemsAt: '', lists: [], key: '/id', nextAt: null, next: null, leftOut: 0 },
        inline(items),
        'picture',
        '/address',
      )
      return
    }
    const origin = await OriginClient.unpaced(await headersOf(currentProject()!.project.loading))
    try {
      await adoptPages(origin, address, signal)
    } finally {
      void origin.close()
    }
  })
}

/** Reads a feed at an address page by page, and opens it. */
async function adoptPages(origin: OriginClient, address: string, signal: AbortSignal): Promise<void> {
  const first = await readIn(new URL(address).pathname, await origin.text(address, byHand(signal)), { itemsAt: null })
  const items = [...first.items]
  let { next } = first
  let at = address
  for (let page = 2; next !== null && page <= mostPages; page++) {
    store.set({ ...store.get(), pages: page })
    at = new URL(next, at).href
    const more: ReadFeed = await readIn(new URL(at).pathname, await origin.text(at, byHand(signal)), {
      itemsAt: first.itemsAt,
      key: null,
      nextAt: first.nextAt,
    })
    items.push(...more.items)
    next = more.next
  }
  await adopt({ ...first, items }, { type: 'url', url: address, itemsAt: first.itemsAt, nextAt: first.nextAt }, address)
}

/** Opens picked pictures and videos, or a whole folder of them, as a feed that needs no network. */
export function openPictures(files: readonly File[]): Promise<void> {
  return opening(files.length === 1 ? files[0]!.name : `${files.length} files`, async () => {
    const state = currentProject()
    if (!state) return
    if (files.length > mostPictures)
      throw new Error(`${files.length} files were picked; at most ${mostPictures} are kept`)
    const named = files.map((file) => ({ name: file.webkitRelativePath || file.name, body: file }))
    const pictures = await answerOf(
      feedWorker.ask('readPictures', { files: named }, (share) => store.set({ ...store.get(), share })),
    )
    if (pictures.length === 0)
      throw new Error('none of the files is a picture (JPEG, PNG, WebP, AVIF, GIF, SVG) or a video')
    const read = new Set(pictures.map(({ name }) => name))
    const names = await keepPictures(
      state.id,
      named.filter(({ name }) => read.has(name)),
    )
    const items = pictures.map(({ name, bytes, width, height }) => ({
      id: name,
      photo: `local:${encodeURIComponent(names.get(name)!)}`,
      title: name.split('/').at(-1),
      bytes,
      ...(width === null ? {} : { width, height }),
    }))
    await adopt(
      { items, itemsAt: '', lists: [], key: '/id', nextAt: null, next: null, leftOut: files.length - items.length },
      { type: 'file', name: 'picked pictures' },
      'this machine',
      '/photo',
    )
  })
}

/** Runs one opening at a time; the former feed stays when it fails or is cancelled. */
async function opening(what: string, open: (signal: AbortSignal) => Promise<void>): Promise<void> {
  cancel()
  const abort = new AbortController()
  let stop: () => void = () => undefined
  cancel = () => {
    abort.abort()
    stop()
  }
  const cancelled = new Promise<never>((_, reject) => (stop = () => reject(new Cancelled('cancelled'))))
  store.set({ ...nothing, what, pages: 1 })
  try {
    await Promise.race([open(abort.signal), cancelled])
  } catch (error) {
    if (abort.signal.aborted) store.set(nothing)
    else
      store.set({
        ...nothing,
        message: {
          wrong: true,
          text: `${what} was not opened: ${error instanceof Error ? error.message : String(error)}. The feed stays as it was.`,
        },
      })
  }
}

async function readIn(name: string, body: Blob, options: FeedOptions): Promise<ReadFeed> {
  const read = await answerOf(
    feedWorker.ask('readFeed', { name, body, options }, (share) => store.set({ ...store.get(), share })),
  )
  if (!read.ok) throw new Error(read.message)
  return read.feed
}

/** Waits for a job; Cancel ends it too. */
function answerOf<T>(job: Job<T>): Promise<T> {
  const former = cancel
  cancel = () => {
    job.cancel()
    former()
  }
  return job.result
}

const inline = (items: readonly Item[]) => ({ type: 'inline' as const, items: [...items] })

type Source =
  | ReturnType<typeof inline>
  | { type: 'file'; name: string }
  | { type: 'url'; url: string; itemsAt: string; nextAt: string | null }

async function adopt(read: ReadFeed, from: Source, name: string, picture?: string): Promise<void> {
  const state = currentProject()
  if (!state) return
  const source = from.type === 'file' ? { ...from, name: await nameToKeep(state.id, from.name, read.items) } : from
  const number = Math.min(currentDevice().screen, state.project.screens.length - 1)
  const screen = state.project.screens[number]!
  if (source.type !== 'inline') await keepItems(state.id, source.type === 'url' ? source.url : source.name, read.items)
  const at = `/screens/${number}/feed`
  edit(
    `open ${name}`,
    [
      { op: 'replace', path: `${at}/source`, value: source },
      { op: 'replace', path: `${at}/key`, value: read.key },
      { op: 'replace', path: `${at}/kind`, value: null },
      ...(picture === undefined
        ? withoutArchiveRules(screen, number)
        : [
            {
              op: 'replace' as const,
              path: `/screens/${number}/cells/0/slots/0/address`,
              value: { type: 'pointer', at: picture },
            },
          ]),
    ],
    true,
  )
  showSample(0)
  const left = read.leftOut > 0 ? ` ${read.leftOut} entries that are not items were left out.` : ''
  const key = read.key === null ? ' No field is unique to each item: the position is used as the key.' : ''
  const proposed = picture === undefined ? proposalFor(read, number) : null
  const next = picture || proposed ? '' : ' Click a value that is a picture’s address, then “picture”.'
  store.set({
    ...nothing,
    proposed,
    message: { wrong: false, text: `${read.items.length} items of ${name} opened.${left}${key}${next}` },
  })
}

/** The archive's servers resize by a rule in the address; other hosts get the address as the feed has it. */
function withoutArchiveRules(screen: Screen, number: number): Operation[] {
  if (screen.feed.source.type !== 'origin') return []
  return screen.cells.flatMap((cell, c) =>
    cell.slots.flatMap(({ address }, s): Operation[] =>
      address.type === 'template'
        ? [
            {
              op: 'replace',
              path: `/screens/${number}/cells/${c}/slots/${s}/address`,
              value: { type: 'pointer', at: fieldOf(address) ?? '/photo' },
            },
          ]
        : [],
    ),
  )
}

/**
 * The bindings that the values of a feed suggest for the first kind of cell; null: nothing looks like a picture's
 * address.
 */
function proposalFor({ items, key }: ReadFeed, number: number): Opening['proposed'] {
  const { picture, width, height, texts } = proposeBindings(items, key)
  const cell = currentProject()?.project.screens[number]?.cells[0]
  if (picture === null || !cell || cell.slots.length === 0) return null
  const at = `/screens/${number}/cells/0`
  const put = (path: string, value: unknown): Operation => ({ op: 'replace', path: `${at}${path}`, value })
  return {
    words: [
      `picture ${picture}`,
      ...(width && height ? [`sizes ${width} and ${height}`] : []),
      ...(texts.length > 0 ? [`${texts.length === 1 ? 'a line' : 'lines'} ${texts.join(' and ')}`] : []),
    ].join(', '),
    patch: [
      put('/slots/0/address', { type: 'pointer', at: picture }),
      ...(width && height ? [put('/slots/0/widthAt', width), put('/slots/0/heightAt', height)] : []),
      ...(texts.length > 0
        ? [
            put(
              '/texts',
              texts.map((text) => ({ at: text })),
            ),
          ]
        : []),
      ...(texts.length > 0 && cell.arrangement === 'picture-only'
        ? [put('/arrangement', 'picture-top'), put('/height', { type: 'content' })]
        : []),
    ],
  }
}
