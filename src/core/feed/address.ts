import { parseTemplate, type Template } from 'url-template'
import type { Item, Slot } from '../project/types.ts'
import { numberAt, valueAt } from './json-pointer.ts'

/** The class of an address before anything loads (F3). `good` and `cleartext` can be loaded, if granted. */
export type AddressClass =
  'good' | 'absent' | 'empty' | 'malformed' | 'relative' | 'scheme' | 'cleartext' | 'credentials'

export interface Address {
  class: AddressClass
  /** The absolute address for good and cleartext ones; else the text that was found. */
  href: string
  host: string
  /** Width of the picture there, px, where the address was chosen by it; Infinity: the widest that there is. */
  widthPx?: number
}

export interface SlotPx {
  widthPx: number
  heightPx: number
  density: number
}

/** `dotted`: names such as `photo.url`, for values deeper in an item. */
const templates = new Map<string, { template: Template; first: string | null; dotted: string[] }>()
/** Results of templates for items; items are never changed in place, so they stay valid. */
const expanded = new WeakMap<Item, Map<string, Address>>()

/** The address of a slot's picture for an item, resolved against the feed's base and classed. */
export function addressOf(item: Item, slot: Slot, px: SlotPx, base: string | null): Address {
  if (slot.address.type !== 'template') return computeAddress(item, slot, px, base)
  const name = `${slot.address.template} ${px.widthPx} ${px.heightPx} ${px.density} ${base}`
  let known = expanded.get(item)
  if (!known) expanded.set(item, (known = new Map()))
  let address = known.get(name)
  if (!address) known.set(name, (address = computeAddress(item, slot, px, base)))
  return address
}

function computeAddress(item: Item, slot: Slot, px: SlotPx, base: string | null): Address {
  if (slot.address.type === 'sizes') {
    const choice = covering(widths(item, slot.address.choices), px.widthPx)
    return choice ? { ...classified(choice.address, base), widthPx: choice.widthPx } : bad('absent', '')
  }
  return classified(rawAddress(item, slot.address, px), base)
}

/**
 * The address of the small picture that is shown before the one that covers the slot: the narrowest that an item has.
 * null: none is requested first, or the narrowest covers the slot.
 */
export function smallAddressOf(item: Item, slot: Slot, px: SlotPx, base: string | null): Address | null {
  if (slot.address.type !== 'sizes' || !slot.address.smallFirst) return null
  const there = widths(item, slot.address.choices)
  const narrowest = there[0]
  if (!narrowest || narrowest.address === covering(there, px.widthPx)?.address) return null
  return { ...classified(narrowest.address, base), widthPx: narrowest.widthPx }
}

type Choices = Extract<Slot['address'], { type: 'sizes' }>['choices']

/** The addresses that an item has, the narrowest first; px. */
const widths = (item: Item, choices: Choices) =>
  choices
    .map((choice) => ({
      address: valueAt(item, choice.at),
      widthPx: choice.widthPx ?? numberAt(item, choice.widthAt ?? null) ?? Infinity,
    }))
    .filter(({ address }) => !isMissing(address))
    .sort((one, other) => one.widthPx - other.widthPx)

/** The narrowest picture that is as wide as its slot; the widest that there is where none is. */
const covering = (there: ReturnType<typeof widths>, widthPx: number) =>
  there.find((choice) => choice.widthPx >= widthPx) ?? there.at(-1)

function classified(found: unknown, base: string | null): Address {
  if (found === null || found === undefined) return bad('absent', '')
  if (typeof found !== 'string') return bad('malformed', String(JSON.stringify(found)).slice(0, 200))
  return classify(found, base)
}

function rawAddress(item: Item, address: Exclude<Slot['address'], { type: 'sizes' }>, px: SlotPx): unknown {
  switch (address.type) {
    case 'pointer':
      return valueAt(item, address.at)
    case 'template': {
      const { first, dotted, template } = templateOf(address.template)
      const values: Record<string, unknown> = { ...item, ...px }
      for (const name of dotted) values[name] = valueAt(item, `/${name.replaceAll('.', '/')}`)
      if (first !== null && !Object.hasOwn(px, first) && isMissing(values[first]))
        return values[first] === '' ? '' : null
      return template.expand(values as never)
    }
    case 'table': {
      const value = valueAt(item, address.at)
      const key = typeof value === 'string' || typeof value === 'number' ? String(value) : null
      return key !== null && Object.hasOwn(address.table, key) ? address.table[key] : null
    }
    case 'packaged':
      return `packaged:${address.name}`
  }
}

/** The JSON Pointer of the value that an address is made of; null: none. */
export function fieldOf(address: Slot['address']): string | null {
  switch (address.type) {
    case 'pointer':
    case 'table':
      return address.at
    case 'template':
      return firstField(address.template)
    case 'sizes':
      return address.choices.at(-1)!.at
    default:
      return null
  }
}

/** The JSON Pointer of the value that a template begins with; null: it names none. */
export function firstField(template: string): string | null {
  const { first } = templateOf(template)
  return first === null ? null : `/${first.replaceAll('.', '/')}`
}

const isMissing = (value: unknown) => value === undefined || value === null || value === ''

function templateOf(text: string): { template: Template; first: string | null; dotted: string[] } {
  let known = templates.get(text)
  if (!known) {
    const names = [...text.matchAll(/\{[+#./;?&]?([^}]*)\}/g)].flatMap((match) =>
      match[1]!.split(',').map((name) => name.replace(/(\*|:\d+)$/, '')),
    )
    known = {
      template: parseTemplate(text),
      first: names[0] ?? null,
      dotted: names.filter((name) => name.includes('.')),
    }
    templates.set(text, known)
  }
  return known
}

const absolute = /^([A-Za-z][A-Za-z0-9+.-]*):(.*)$/s
const authority = /^\/\/([^/?#]*)([^]*)$/

/** Classes one address. Only forms that RFC 3986 allows are good; a percent sign must be followed by two hex digits. */
export function classify(text: string, base: string | null): Address {
  if (text.trim() === '') return bad('empty', text)
  if (/[\s<>"\\^`{|}]/.test(text) || /%(?![0-9A-Fa-f]{2})/.test(text)) return bad('malformed', text)
  const match = absolute.exec(text)
  if (!match) return base === null ? bad('relative', text) : resolve(text, base)
  const scheme = match[1]!.toLowerCase()
  if (scheme === 'packaged' || scheme === 'data' || scheme === 'local') return { class: 'good', href: text, host: '' }
  if (scheme !== 'http' && scheme !== 'https') return bad('scheme', text)
  const parts = authority.exec(match[2]!)
  if (!parts) return bad('malformed', text)
  const host = parts[1]!
  if (host.includes('@')) return bad('credentials', text)
  if (!/^(\[[0-9a-fA-F:.]+\]|[A-Za-z0-9._~-]+)(:\d{1,5})?$/.test(host)) return bad('malformed', text)
  return { class: scheme === 'http' ? 'cleartext' : 'good', href: text, host: host.toLowerCase() }
}

/** Resolves a relative reference (RFC 3986, 5.2, without a query-only reference's finer points). */
function resolve(text: string, base: string): Address {
  const match = /^([a-z][a-z0-9+.-]*:)(\/\/[^/?#]*)([^?#]*)/i.exec(base)
  if (!match) return bad('relative', text)
  const [, scheme, host, path] = match as unknown as [string, string, string, string]
  if (text.startsWith('//')) return classify(scheme + text, null)
  const folder = path.slice(0, path.lastIndexOf('/') + 1) || '/'
  if (text.startsWith('?')) return classify(scheme + host + path + text, null)
  const joined = text.startsWith('/') ? text : folder + text
  const cut = joined.search(/[?#]/)
  const plain = cut < 0 ? joined : joined.slice(0, cut)
  return classify(scheme + host + dotless(plain) + (cut < 0 ? '' : joined.slice(cut)), null)
}

function dotless(path: string): string {
  const kept: string[] = []
  const parts = path.split('/')
  for (const [index, part] of parts.entries()) {
    const isLast = index === parts.length - 1
    if (part === '..') {
      if (kept.length > 1) kept.pop()
      if (isLast) kept.push('')
    } else if (part !== '.') kept.push(part)
    else if (isLast) kept.push('')
  }
  return kept.join('/')
}

const bad = (kind: AddressClass, href: string): Address => ({ class: kind, href, host: '' })

/** The identity of a picture: its address without the query parameters that do not make another one. */
export function sameAs(href: string, ignoring: readonly string[]): string {
  if (ignoring.length === 0) return href
  const mark = href.indexOf('?')
  if (mark < 0) return href
  const hash = href.indexOf('#', mark)
  const query = href.slice(mark + 1, hash < 0 ? undefined : hash)
  const kept = query.split('&').filter((pair) => !ignoring.includes(pair.split('=')[0]!))
  return href.slice(0, mark) + (kept.length > 0 ? `?${kept.join('&')}` : '')
}
