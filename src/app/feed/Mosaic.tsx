import { useLayoutEffect, useRef } from 'react'
import type { CheckedClass } from '../../core/feed/address-check.ts'
import type { SlotCheck } from '../../core/simulate/feed-check.ts'
import { whenRestored } from '../../live/when-restored.ts'
import { set } from '../store/project-store.ts'
import { Chip } from '../controls/Chip.tsx'

interface MosaicProps {
  check: SlotCheck
  /** Hosts whose cleartext addresses are allowed. */
  allowed: readonly string[]
  onItem: (index: number) => void
}

/** Words, colour and the part of the mark that is filled: x, y, width, height of 1. */
const looks: Record<CheckedClass, { name: string; colour: string; part: readonly [number, number, number, number] }> = {
  good: { name: 'good', colour: '--channel-deep', part: [0, 0, 1, 1] },
  cleartext: { name: 'cleartext', colour: '--hole', part: [0, 0.35, 1, 0.65] },
  duplicate: { name: 'the same as another', colour: '--early', part: [0.4, 0, 0.6, 1] },
  absent: { name: 'absent', colour: '--quiet', part: [0, 0, 0, 0] },
  empty: { name: 'empty', colour: '--quiet', part: [0.35, 0.35, 0.3, 0.3] },
  malformed: { name: 'malformed', colour: '--failed', part: [0, 0, 1, 1] },
  relative: { name: 'relative, with no base', colour: '--again', part: [0, 0, 0.5, 1] },
  scheme: { name: 'of a scheme that cannot load', colour: '--never', part: [0, 0, 1, 0.5] },
  unreachable: { name: 'on a host that this bench may not ask', colour: '--cut', part: [0, 0.4, 1, 0.2] },
  credentials: { name: 'with credentials', colour: '--never', part: [0.2, 0.2, 0.6, 0.6] },
}
const order = Object.keys(looks) as CheckedClass[]
/** The worst one represents the group when a mark stands for several items. */
function weight(name: CheckedClass): number {
  if (name === 'good') return 0
  return name === 'duplicate' ? 1 : 2
}
/** The most room that the marks take, px. */
const height = 130

/** Every address before anything loads: one mark an item, its colour and shape by its verdict. */
export function Mosaic({ check, allowed, onItem }: MosaicProps) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const grid = useRef({ columns: 1, size: 8, group: 1 })
  const { classes, own } = check
  // Before the page is painted: a canvas has a height of its own until it is given one, and what is below it would
  // jump.
  useLayoutEffect(() => {
    const element = canvas.current!
    const paint = () => {
      grid.current = fit(classes.length, element.clientWidth)
      element.style.height = `${Math.ceil(Math.ceil(classes.length / grid.current.group) / grid.current.columns) * grid.current.size}px`
      drawMarks(element, classes, grid.current)
    }
    paint()
    const watch = new ResizeObserver(paint)
    watch.observe(element)
    const theme = new MutationObserver(paint)
    theme.observe(document.documentElement, { attributes: true, attributeFilter: ['data-bs-theme'] })
    const unwatch = whenRestored(element, paint)
    return () => {
      unwatch()
      watch.disconnect()
      theme.disconnect()
    }
  }, [classes])
  const listed = order.filter((name) => check.counts[name] > 0)
  return (
    <section className="tt-card tt-mosaic" aria-label="Addresses">
      <h2>
        Addresses · one mark per item{' '}
        <span className="tt-quiet">{classes.length.toLocaleString('en')} looked at before anything loads</span>
      </h2>
      <canvas
        ref={canvas}
        role="img"
        aria-label={`Addresses: ${listed.map((name) => `${check.counts[name]} ${looks[name].name}`).join(', ')}`}
        onClick={(event) => {
          const { columns, size, group } = grid.current
          const box = event.currentTarget.getBoundingClientRect()
          const mark =
            Math.floor((event.clientY - box.top) / size) * columns + Math.floor((event.clientX - box.left) / size)
          const at = classes.findIndex(
            (name, i) => i >= mark * group && i < (mark + 1) * group && (group === 1 || name !== 'good'),
          )
          const index = own[at < 0 ? mark * group : at]
          if (index !== undefined) onItem(index)
        }}
      />
      <ul className="tt-mosaic-key">
        {listed.map((name) => (
          <li key={name}>
            <button
              type="button"
              className="tt-key"
              data-explain={name === 'good' ? 'Goes to the first of them' : 'Goes to the next of them'}
              onClick={() => onItem(next(check, name))}
            >
              <Mark name={name} /> {check.counts[name].toLocaleString('en')} {looks[name].name}
            </button>
          </li>
        ))}
        {Object.entries(check.cleartextHosts).map(([host, count]) => {
          const may = allowed.includes(host)
          return (
            <li key={host}>
              <Chip
                aria-pressed={may}
                data-explain={`${count} items ask ${host} in cleartext; phones refuse that unless the app allows the host`}
                onClick={() =>
                  set('/loading/cleartextHosts', may ? allowed.filter((each) => each !== host) : [...allowed, host])
                }
              >
                {may ? '✓ cleartext allowed for' : 'allow cleartext for'} {host}
              </Chip>
            </li>
          )
        })}
      </ul>
      {check.counts.unreachable > 0 && (
        <p role="note">
          The device cannot load pictures of {Object.keys(check.unreachableHosts).slice(0, 3).join(', ')}
          {Object.keys(check.unreachableHosts).length > 3 ? ' and others' : ''}: start the bench with{' '}
          <code>TUG_RELAY_HOSTS={Object.keys(check.unreachableHosts).slice(0, 3).join(',')} npm start</code>.
          Simulations make them up.
        </p>
      )}
    </section>
  )
}

const lastShown = new Map<CheckedClass, number>()

function next({ items, own, classes }: SlotCheck, name: CheckedClass): number {
  const at = name === 'good' ? [classes.indexOf('good')] : (items[name] ?? [])
  const turn = (lastShown.get(name) ?? -1) + 1
  lastShown.set(name, turn)
  return own[at[turn % at.length]!]!
}

function fit(count: number, width: number): { columns: number; size: number; group: number } {
  for (let size = 16; size >= 4; size--) {
    const columns = Math.max(1, Math.floor(width / size))
    if (columns * Math.floor(height / size) >= count) return { columns, size, group: 1 }
  }
  const columns = Math.max(1, Math.floor(width / 4))
  return { columns, size: 4, group: Math.ceil(count / (columns * Math.floor(height / 4))) }
}

function drawMarks(
  canvas: HTMLCanvasElement,
  classes: readonly CheckedClass[],
  { columns, size, group }: { columns: number; size: number; group: number },
): void {
  const scale = devicePixelRatio
  canvas.width = canvas.clientWidth * scale
  canvas.height = canvas.clientHeight * scale
  const context = canvas.getContext('2d')!
  const tokens = getComputedStyle(document.documentElement)
  const colours = new Map(order.map((name) => [name, tokens.getPropertyValue(looks[name].colour).trim()]))
  context.scale(scale, scale)
  const side = size - (size > 6 ? 2 : 1)
  for (let i = 0; i < classes.length; i += group) {
    let name = classes[i]!
    for (let j = i + 1; j < Math.min(classes.length, i + group); j++)
      if (weight(classes[j]!) > weight(name)) name = classes[j]!
    const mark = i / group
    const x = (mark % columns) * size
    const y = Math.floor(mark / columns) * size
    const [px, py, width, tall] = looks[name].part
    context.fillStyle = context.strokeStyle = colours.get(name)!
    context.fillRect(x + px * side, y + py * side, width * side, tall * side)
    if (name !== 'good') context.strokeRect(x + 0.5, y + 0.5, side - 1, side - 1)
  }
}

function Mark({ name }: { name: CheckedClass }) {
  const { colour, part } = looks[name]
  return (
    <svg width="11" height="11" viewBox="0 0 11 11" aria-hidden style={{ color: `var(${colour})` }}>
      {name !== 'good' && <rect x="0.5" y="0.5" width="10" height="10" fill="none" stroke="currentColor" />}
      <rect x={part[0] * 11} y={part[1] * 11} width={part[2] * 11} height={part[3] * 11} fill="currentColor" />
    </svg>
  )
}
