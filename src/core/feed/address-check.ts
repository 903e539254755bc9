import type { Item, Screen, Slot } from '../project/types.ts'
import { addressOf, sameAs, type AddressClass, type SlotPx } from './address.ts'

const addressClasses = [
  'good',
  'cleartext',
  'duplicate',
  'absent',
  'empty',
  'malformed',
  'relative',
  'scheme',
  'credentials',
  'unreachable',
] as const
export type CheckedClass = AddressClass | 'duplicate' | 'unreachable'

export interface AddressCheck {
  slot: string
  /** The class of each item, by its position. */
  classes: CheckedClass[]
  counts: Record<CheckedClass, number>
  /** Positions of the items of each class but the good ones. */
  items: Partial<Record<CheckedClass, number[]>>
  /** Hosts that are requested in cleartext, with how many items each. */
  cleartextHosts: Record<string, number>
  /** Hosts that cannot be reached from here, with how many items each. */
  unreachableHosts: Record<string, number>
}

/**
 * Classes the address of every item for one slot, before anything loads. `reaches`: whether a host can be reached from
 * here; null: not known.
 */
export function checkAddresses(
  items: readonly Item[],
  screen: Screen,
  slot: Slot,
  px: SlotPx,
  base: string | null,
  reaches: ((host: string) => boolean) | null = null,
): AddressCheck {
  const counts = Object.fromEntries(addressClasses.map((name) => [name, 0])) as Record<CheckedClass, number>
  const found: Partial<Record<CheckedClass, number[]>> = {}
  const hosts = new Map<string, number>()
  const unreachable = new Map<string, number>()
  const seen = new Set<string>()
  const classes = items.map((item, index) => {
    const address = addressOf(item, slot, px, base)
    let kind: CheckedClass = address.class
    if (kind === 'good' || kind === 'cleartext') {
      const identity = sameAs(address.href, screen.feed.sameIgnoring)
      if (kind === 'cleartext') hosts.set(address.host, (hosts.get(address.host) ?? 0) + 1)
      if (seen.has(identity)) kind = 'duplicate'
      seen.add(identity)
      if (address.host !== '' && reaches?.(address.host) === false) {
        unreachable.set(address.host, (unreachable.get(address.host) ?? 0) + 1)
        kind = 'unreachable'
      }
    }
    counts[kind]++
    if (kind !== 'good') (found[kind] ??= []).push(index)
    return kind
  })
  return {
    slot: slot.id,
    classes,
    counts,
    items: found,
    cleartextHosts: Object.fromEntries(hosts),
    unreachableHosts: Object.fromEntries(unreachable),
  }
}
