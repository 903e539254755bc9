import FormControl from 'react-bootstrap/FormControl'
import { useState } from 'react'
import Button from 'react-bootstrap/Button'
import { fieldOf } from '../../core/feed/address.ts'
import type { Screen, Slot } from '../../core/project/types.ts'
import type { SlotCheck } from '../../core/simulate/feed-check.ts'
import { Amount } from '../controls/Amount.tsx'
import { Choice } from '../controls/Choice.tsx'
import { set } from '../store/project-store.ts'
import { Chip } from '../controls/Chip.tsx'

interface AddressRuleProps {
  screen: Screen
  number: number
  kind: number
  slot: Slot
  slotNumber: number
  check: SlotCheck | null
}

/** How an item's address is made: a field, a template that asks for the slot's size, or a table; and what that saves. */
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
      {address.type === 'sizes' && <Sizes path={path} choices={address.choices} />}
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

/** A text that counts when it is left or entered; the former one stays when it is wrong. */
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
  const [line, setLine] = useState({ value: '', address: '' })
  return (
    <div className="tt-table-rule">
      <Typed label="JSON Pointer to the value" value={at} onCommit={(next) => set(`${path}/at`, next)} />
      {Object.entries(table).map(([value, address]) => (
        <div key={value} className="tt-source-line">
          <span>
            {value} → {address}
          </span>
          <Chip
            aria-label={`Take ${value} away`}
            onClick={() =>
              set(`${path}/table`, Object.fromEntries(Object.entries(table).filter(([each]) => each !== value)))
            }
          >
            ×
          </Chip>
        </div>
      ))}
      <form
        className="tt-source-line"
        onSubmit={(event) => {
          event.preventDefault()
          set(`${path}/table`, { ...table, [line.value]: line.address })
          setLine({ value: '', address: '' })
        }}
      >
        <FormControl
          size="sm"
          aria-label="Value"
          required
          value={line.value}
          onChange={(event) => setLine({ ...line, value: event.target.value })}
        />
        <FormControl
          size="sm"
          aria-label="Its address"
          required
          value={line.address}
          onChange={(event) => setLine({ ...line, address: event.target.value })}
        />
        <Button size="sm" type="submit" variant="outline-primary">
          Add
        </Button>
      </form>
    </div>
  )
}

interface SizedAddress {
  at: string
  widthPx?: number | undefined
  widthAt?: string | undefined
}

/** Several addresses of a picture: the narrowest that is as wide as the slot is asked for. */
function Sizes({ path, choices }: { path: string; choices: readonly SizedAddress[] }) {
  const [line, setLine] = useState({ at: '', width: '' })
  return (
    <div className="tt-table-rule">
      {choices.map((choice, i) => (
        <div key={i} className="tt-source-line">
          <span>
            {choice.at} · {toldWidth(choice)}
          </span>
          {choices.length > 1 && (
            <Chip
              aria-label={`Take ${choice.at} away`}
              onClick={() =>
                set(
                  `${path}/choices`,
                  choices.filter((each) => each !== choice),
                )
              }
            >
              ×
            </Chip>
          )}
        </div>
      ))}
      <form
        className="tt-source-line"
        onSubmit={(event) => {
          event.preventDefault()
          const { at, width } = line
          set(`${path}/choices`, [...choices, { at, ...widthFrom(width) }])
          setLine({ at: '', width: '' })
        }}
      >
        <FormControl
          size="sm"
          aria-label="JSON Pointer to an address"
          placeholder="/photo/small"
          required
          value={line.at}
          onChange={(event) => setLine({ ...line, at: event.target.value })}
        />
        <FormControl
          size="sm"
          aria-label="How wide it is there: px, or a JSON Pointer; empty: the original"
          placeholder="px or /w"
          pattern="[1-9]\d{0,4}|/.+"
          value={line.width}
          onChange={(event) => setLine({ ...line, width: event.target.value })}
        />
        <Button size="sm" type="submit" variant="outline-primary">
          Add
        </Button>
      </form>
    </div>
  )
}

/** What was typed as a width: nothing, px, or where the item says it. */
function widthFrom(typed: string): Omit<SizedAddress, 'at'> {
  if (typed === '') return {}
  return typed.startsWith('/') ? { widthAt: typed } : { widthPx: Number(typed) }
}

function toldWidth({ widthPx, widthAt }: SizedAddress): string {
  if (widthPx !== undefined) return `${widthPx} px wide`
  return widthAt === undefined ? 'the original' : `as wide as ${widthAt} says`
}

const tail = (href: string) => (href.length > 34 ? `…${href.slice(-33)}` : href)
const amountOf = (bytes: number) =>
  bytes >= 1e6 ? `${(bytes / 1e6).toFixed(bytes >= 1e8 ? 0 : 1)} MB` : `${(bytes / 1e3).toFixed(0)} kB`
