import FormCheck from 'react-bootstrap/FormCheck'
import FormControl from 'react-bootstrap/FormControl'
import { useState } from 'react'
import { fieldOf } from '../../core/feed/address.ts'
import type { Screen, Slot } from '../../core/project/types.ts'
import type { SlotCheck } from '../../core/simulate/feed-check.ts'
import { Amount } from '../controls/Amount.tsx'
import { Choice } from '../controls/Choice.tsx'
import { set } from '../store/project-store.ts'
import { Chip } from '../controls/Chip.tsx'
import { Lines } from './Lines.tsx'

interface AddressRuleProps {
  screen: Screen
  number: number
  kind: number
  slot: Slot
  slotNumber: number
  check: SlotCheck | null
}

/** How an item's address is made: a field, a template that takes the slot's size, or a table; and what that saves. */
export function AddressRule({ screen, number, kind, slot, slotNumber, check }: AddressRuleProps) {
  const path = `/screens/${number}/cells/${kind}/slots/${slotNumber}/address`
  const { address } = slot
  const at = fieldOf(address) ?? '/photo'
  const variable = at.slice(1).replaceAll('/', '.')
  const to = (type: string) =>
    set(
      path,
      {
        pointer: { type: 'pointer', at },
        template: { type: 'template', template: `{+${variable}}?width={widthPx}&height={heightPx}` },
        table: { type: 'table', at, table: {} },
        sizes: { type: 'sizes', choices: [{ at }] },
      }[type],
    )
  return (
    <section className="tt-card" aria-label="Address">
      <h2>Address</h2>
      <div className="tt-swatches" role="group" aria-label="How the address is made">
        {(
          [
            ['pointer', 'the field'],
            ['template', 'at the slot’s size'],
            ['table', 'from a table'],
            ['sizes', 'by sizes'],
          ] as const
        ).map(([type, name]) => (
          <Chip key={type} aria-pressed={address.type === type} onClick={() => to(type)}>
            {name}
          </Chip>
        ))}
      </div>
      {address.type === 'pointer' && (
        <Typed label="JSON Pointer to the address" value={address.at} onCommit={(next) => set(`${path}/at`, next)} />
      )}
      {address.type === 'template' && (
        <Typed
          label="URI template (RFC 6570)"
          value={address.template}
          onCommit={(next) => set(`${path}/template`, next)}
        />
      )}
      {address.type === 'sizes' && <Sizes path={path} choices={address.choices} smallFirst={address.smallFirst} />}
      {address.type === 'table' && <Table path={path} at={address.at} table={address.table} />}
      <ol className="tt-examples" aria-label="The first items’ addresses">
        {check?.examples.map(({ item, address: made }) => (
          <li key={item} tabIndex={0} data-explain={made.href}>
            <span>{made.href === '' ? '—' : tail(made.href)}</span>{' '}
            <small>{made.class === 'good' ? `${check.px.width} × ${check.px.height} px` : made.class}</small>
          </li>
        ))}
      </ol>
      {check?.saving && check.saving.bytes > 0 && (
        <p className="tt-saving">
          Saves{' '}
          <strong>
            {amountOf(check.saving.bytes)} and {check.saving.decodeMs.toFixed(0)} ms
          </strong>{' '}
          a picture against the {check.saving.originalPx} px original: {amountOf(check.saving.allBytes)} over the whole
          list.
        </p>
      )}
      <h2>Repetition</h2>
      <Amount path={`/screens/${number}/feed/repeat/times`} value={screen.feed.repeat.times} from={1} to={100} />
      {screen.feed.repeat.times > 1 && (
        <p className="tt-quiet" role="note">
          {check ? (check.own.length * screen.feed.repeat.times).toLocaleString('en') : 'All'} items of this kind in the
          list. The check below looks at each once; a feed of pages repeats when its last page is there.
        </p>
      )}
      {screen.feed.repeat.times > 1 && (
        <Choice
          path={`/screens/${number}/feed/repeat/addresses`}
          value={screen.feed.repeat.addresses}
          names={{ same: 'the same', distinct: 'each its own' }}
        />
      )}
      <details>
        <summary>Pages, base and what counts as the same</summary>
        <Amount path={`/screens/${number}/feed/pageAheadRows`} value={screen.feed.pageAheadRows} from={0} to={60} />
        <Typed
          label="Base of relative addresses"
          value={screen.feed.base ?? ''}
          onCommit={(next) => set(`/screens/${number}/feed/base`, next === '' ? null : next)}
        />
        <Typed
          label="Query parameters that make no other picture"
          value={screen.feed.sameIgnoring.join(', ')}
          onCommit={(next) =>
            set(
              `/screens/${number}/feed/sameIgnoring`,
              next
                .split(',')
                .map((each) => each.trim())
                .filter((each) => each !== ''),
            )
          }
        />
        {screen.feed.source.type === 'url' && (
          <Typed
            label="Next page’s address at"
            value={screen.feed.source.nextAt ?? ''}
            onCommit={(next) => set(`/screens/${number}/feed/source/nextAt`, next === '' ? null : next)}
          />
        )}
      </details>
    </section>
  )
}

/** A text that is taken when the field is left or Enter is pressed; a wrong one is not taken. */
function Typed({ label, value, onCommit }: { label: string; value: string; onCommit: (next: string) => void }) {
  const [typed, setTyped] = useState<string | null>(null)
  const commit = () => {
    if (typed !== null && typed !== value) onCommit(typed)
    setTyped(null)
  }
  return (
    <label className="tt-typed">
      <span className="tt-quiet">{label}</span>
      <FormControl
        size="sm"
        value={typed ?? value}
        spellCheck={false}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => event.key === 'Enter' && commit()}
      />
    </label>
  )
}

function Table({ path, at, table }: { path: string; at: string; table: Record<string, string> }) {
  return (
    <div className="tt-table-rule">
      <Typed label="JSON Pointer to the value" value={at} onCommit={(next) => set(`${path}/at`, next)} />
      <Lines
        lines={Object.entries(table).map(([value, address]) => ({
          name: value,
          text: `${value} → ${address}`,
          onRemove: () =>
            set(`${path}/table`, Object.fromEntries(Object.entries(table).filter(([each]) => each !== value))),
        }))}
        fields={[
          { label: 'Value', required: true },
          { label: 'Its address', required: true },
        ]}
        onAdd={([value, address]) => set(`${path}/table`, { ...table, [value]: address })}
      />
    </div>
  )
}

interface SizedAddress {
  at: string
  widthPx?: number | undefined
  widthAt?: string | undefined
}

interface SizesProps {
  path: string
  choices: readonly SizedAddress[]
  smallFirst: boolean
}

/** Several addresses of a picture: the narrowest that is as wide as the slot is requested. */
function Sizes({ path, choices, smallFirst }: SizesProps) {
  const put = (next: readonly SizedAddress[]) => set(`${path}/choices`, next)
  return (
    <div className="tt-table-rule">
      <Lines
        lines={choices.map((choice) => ({
          name: choice.at,
          text: `${choice.at} · ${widthWords(choice)}`,
          // One has to stay.
          ...(choices.length > 1 && { onRemove: () => put(choices.filter((each) => each !== choice)) }),
        }))}
        fields={[
          { label: 'JSON Pointer to an address', placeholder: '/photo/small', required: true },
          {
            label: 'How wide it is there: px, or a JSON Pointer; empty: the original',
            placeholder: 'px or /w',
            pattern: '[1-9]\\d{0,4}|/.+',
          },
        ]}
        onAdd={([at, width]) => put([...choices, { at, ...widthFrom(width) }])}
      />
      <FormCheck
        type="switch"
        id="small-first"
        label="The smallest first, then the one that covers the slot"
        data-explain="A slot shows the smallest picture as soon as it is there, and asks for the larger one then. Costs one more request per picture."
        checked={smallFirst}
        onChange={() => set(`${path}/smallFirst`, !smallFirst)}
      />
    </div>
  )
}

/** What was typed as a width: nothing, px, or a field of the item. */
function widthFrom(typed: string): Omit<SizedAddress, 'at'> {
  if (typed === '') return {}
  return typed.startsWith('/') ? { widthAt: typed } : { widthPx: Number(typed) }
}

function widthWords({ widthPx, widthAt }: SizedAddress): string {
  if (widthPx !== undefined) return `${widthPx} px wide`
  return widthAt === undefined ? 'the original' : `as wide as ${widthAt} says`
}

const tail = (href: string) => (href.length > 34 ? `…${href.slice(-33)}` : href)
const amountOf = (bytes: number) =>
  bytes >= 1e6 ? `${(bytes / 1e6).toFixed(bytes >= 1e8 ? 0 : 1)} MB` : `${(bytes / 1e3).toFixed(0)} kB`
