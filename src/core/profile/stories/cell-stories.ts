import { failWords } from '../../loading/fail-words.ts'
import { EventReader } from '../../log/event-reader.ts'
import { isReady, isShown, type ExposureFact, type Facts } from '../facts/facts.ts'
import type { Sentence } from './stories.ts'

/** The course of a cell or an item through a run. */
export interface WayStory {
  of: 'cell' | 'item'
  number: number
  /** The item's key; a cell has none. */
  key: string
  sentences: Sentence[]
}

const most = 400

/** What a cell was bound to, one item after the other, and what it showed of each. */
export function cellStory(facts: Facts, cell: number): WayStory | null {
  const { log, claims, cells } = facts
  if (!cells[cell]) return null
  const sentences: Sentence[] = []
  const own = (event: { t: number; cell: number }, text: () => string) => {
    if (event.cell === cell) sentences.push({ t: event.t / 1000, text: text() })
  }
  new EventReader(log, {
    create: (event) => own(event, () => 'made.'),
    bind: (event) => own(event, () => `bound to ${log.strings[event.key]!}, in row ${event.row}.`),
    recycle: (event) => own(event, () => 'taken off the list, free for another item.'),
    away: (event) => own(event, () => 'off the list, held with what it shows.'),
    hold: (event) => own(event, () => 'back on the list with what it held.'),
  }).readAll()
  const shown = new Map(
    facts.exposures.flatMap((each) => (each.cell === cell && isShown(each) ? [[each.claim, each] as const] : [])),
  )
  for (const claim of claims) {
    if (claim.cell !== cell) continue
    const request = claim.request === null ? {} : { request: claim.request }
    if (claim.request !== null)
      sentences.push({
        t: claim.t / 1000,
        text: `asked for its picture (request ${claim.request}).`,
        ...request,
      })
    const exposure = shown.get(claim.id)
    if (exposure)
      sentences.push({
        t: exposure.shownT / 1000,
        text: isReady(exposure)
          ? 'came on screen with its picture.'
          : `showed its picture, ${Math.round((exposure.shownT - exposure.enterT) / 1000)} ms after it came on screen.`,
        ...request,
      })
    else if (claim.releaseT !== null && claim.deliverT === null)
      sentences.push({
        t: claim.releaseT / 1000,
        text: 'moved on before its picture was there.',
        ...request,
      })
  }
  for (const { t, rendition } of facts.wrongs.filter((each) => each.cell === cell))
    sentences.push({ t: t / 1000, text: `showed the picture of another item (rendition ${rendition}).` })
  return { of: 'cell', number: cell, key: '', sentences: inOrder(sentences) }
}

/** What happened to an item: what claimed its pictures, when it was on screen, and what it showed then. */
export function itemStory(facts: Facts, index: number): WayStory | null {
  const { claims, exposures, requests, log } = facts
  const own = claims.filter((claim) => claim.index === index && claim.scope === 'list')
  const seen = exposures.filter((each) => each.index === index)
  if (own.length === 0 && seen.length === 0) return null
  const sentences: Sentence[] = own.flatMap((claim): Sentence[] => {
    const who = claim.cell === null ? 'looked ahead for' : `bound to cell ${claim.cell}`
    const request = claim.request === null ? {} : { request: claim.request }
    const asked: Sentence = {
      t: claim.t / 1000,
      text:
        claim.request === null
          ? `${who}: memory had its picture.`
          : `${who}; request ${claim.request} is to bring its picture.`,
      ...request,
    }
    if (claim.failT === null) return [asked]
    const reason = claim.request === null ? '' : requests[claim.request]!.reason
    const text = `its picture is unavailable: ${failWords[reason] ?? 'the address is malformed'}.`
    return [asked, { t: claim.failT / 1000, text, ...request }]
  })
  for (const each of seen) {
    sentences.push({
      t: each.enterT / 1000,
      text: entrySentence(each),
    })
    if (isShown(each) && !isReady(each))
      sentences.push({
        t: each.shownT / 1000,
        text: `its picture is shown, ${Math.round((each.shownT - each.enterT) / 1000)} ms later.`,
      })
    sentences.push({
      t: each.leaveT / 1000,
      text: each.outcome === 'unseen' ? 'off the screen again, its picture never seen.' : 'off the screen.',
    })
  }
  const key = seen[0] ? (log.strings[seen[0].key] ?? '') : ''
  return { of: 'item', number: index, key, sentences: inOrder(sentences) }
}

const inOrder = (sentences: Sentence[]) => sentences.sort((one, other) => one.t - other.t).slice(0, most)

function entrySentence(exposure: ExposureFact): string {
  if (exposure.outcome === 'absent') return 'on screen; it has no picture.'
  return isReady(exposure) ? 'on screen, with its picture.' : 'on screen, without its picture yet.'
}
