import { knownItems } from '../../core/feed/known-items.ts'
import { useMemo } from 'react'
import useSWR from 'swr'
import type { Item, Screen } from '../../core/project/types.ts'
import { createStore } from '../store/external-store.ts'
import { feedId, itemsOf, useItemsKept } from '../store/feed-store.ts'
import { useProject } from '../store/project-store.ts'

const none: readonly Item[] = []
/** Index of the sample item; Feed and Cell show the same one. */
const sample = createStore(7)
export const showSample = sample.set

/** All items of a screen's feed; empty while they load, with the error when they are unavailable. */
export function useItems(screen: Screen): { items: readonly Item[]; trouble: string | null } {
  const id = useProject()!.id
  const version = useItemsKept()
  // The feed is the input, whatever else changes on the screen.
  // eslint-disable-next-line react-hooks/exhaustive-deps
  const known = useMemo(() => knownItems(screen.feed), [screen.feed.source])
  const { data, error } = useSWR(known ? null : [feedId(id, screen), version], () => itemsOf(id, screen), {
    revalidateOnFocus: false,
    shouldRetryOnError: false,
  })
  return { items: known ?? data ?? none, trouble: error instanceof Error ? error.message : null }
}

const nothing: Item = {}

/** The sample item of a screen's feed. */
export function useSample(screen: Screen): { item: Item; number: number; count: number } {
  const { items } = useItems(screen)
  const number = Math.max(0, Math.min(sample.use(), items.length - 1))
  return { item: items[number] ?? nothing, number, count: items.length }
}
