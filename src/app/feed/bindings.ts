import type { Operation } from 'fast-json-patch'
import { fieldOf } from '../../core/feed/address.ts'
import { repeatOf } from '../../core/feed/read-feed.ts'
import type { Item, Screen } from '../../core/project/types.ts'
import { edit, notify } from '../store/project-store.ts'

/** A place that a value of an item can be bound to. */
export interface Place {
  id: string
  name: string
  /** The pointer that is bound now; null: nothing, or not a single value. */
  bound: string | null
  explain: string
  patch: (pointer: string) => Operation[]
}

/** Every place of a cell and its feed, in the order in which they are read. */
export function placesOf(screen: Screen, number: number, kind: number): Place[] {
  const cell = screen.cells[kind]!
  const at = `/screens/${number}`
  const cellAt = `${at}/cells/${kind}`
  const put =
    (path: string) =>
    (pointer: string): Operation[] => [{ op: 'replace', path, value: pointer }]
  const slots = cell.slots.flatMap((slot, i): Place[] => {
    const { address } = slot
    const several = cell.slots.length > 1 ? ` “${slot.id}”` : ''
    const slotAt = `${cellAt}/slots/${i}`
    return [
      {
        id: `slot ${i}`,
        name: `picture${several}`,
        explain: 'The value is the picture’s address.',
        bound: fieldOf(address),
        patch: (pointer) => [{ op: 'replace', path: `${slotAt}/address`, value: { type: 'pointer', at: pointer } }],
      },
      {
        id: `width ${i}`,
        name: `width${several}`,
        explain: 'The value is the picture’s width in px.',
        bound: slot.widthAt,
        patch: put(`${slotAt}/widthAt`),
      },
      {
        id: `height ${i}`,
        name: `height${several}`,
        explain: 'The value is the picture’s height in px.',
        bound: slot.heightAt,
        patch: put(`${slotAt}/heightAt`),
      },
    ]
  })
  const texts = cell.texts.map((text, i): Place => ({
    id: `text ${i}`,
    name: `line ${i + 1}`,
    explain: 'The value is shown as a line of text.',
    bound: text.at,
    patch: put(`${cellAt}/texts/${i}/at`),
  }))
  const newLine: Place = {
    id: 'text new',
    name: '+ line',
    explain: 'The value is shown as one more line of text.',
    bound: null,
    patch: (pointer) => [
      { op: 'replace', path: `${cellAt}/texts`, value: [...cell.texts, { at: pointer }] },
      ...(cell.arrangement === 'picture-only'
        ? [
            { op: 'replace' as const, path: `${cellAt}/arrangement`, value: 'picture-top' },
            { op: 'replace' as const, path: `${cellAt}/height`, value: { type: 'content' } },
          ]
        : []),
    ],
  }
  return [
    ...slots,
    ...texts,
    newLine,
    {
      id: 'key',
      name: 'key',
      explain: 'The value is unique to each item: identity is the key, never the position.',
      bound: screen.feed.key,
      patch: put(`${at}/feed/key`),
    },
    {
      id: 'kind',
      name: 'kind',
      explain: 'The value says which kind of cell an item wants.',
      bound: screen.feed.kind,
      patch: put(`${at}/feed/kind`),
    },
  ]
}

/** Binds a value to a place; a key that is not unique is reported, and the former one stays. */
export function bind(place: Place, pointer: string, items: readonly Item[]): void {
  const wrong = place.id === 'key' ? repeatOf(items, pointer) : null
  if (wrong !== null) notify(`The key stays as it was. ${wrong}.`)
  else edit(`bind ${place.id}`, place.patch(pointer))
}
