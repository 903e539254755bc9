import { classNames, rowName, useLiveLine } from './use-live-line.ts'

/** The number of queued tiles that are drawn; the rest is counted. */
const mostInLine = 10

/** The requests that wait for a fetch slot on the live device now, in the loader’s own order. */
export function InLine() {
  const { waiting, fallen } = useLiveLine()
  return (
    <div className="tt-in-line" aria-live="off">
      <span>{waiting.length === 0 ? 'Nothing is in line on the device.' : 'In line'}</span>
      <ol aria-label={`${waiting.length} in line`}>
        {waiting.slice(0, mostInLine).map(({ id, row, class: of }, i) => (
          <li
            key={id}
            data-class={of}
            tabIndex={0}
            data-explain={`${rowName(row)}, ${classNames[of] ?? ''}: number ${i + 1} in line`}
          >
            {i + 1}
            <small>{rowName(row)}</small>
          </li>
        ))}
        {fallen.map(({ id, row }) => (
          <li key={`fallen ${id}`} className="tt-fallen" aria-hidden>
            ✕<small>{rowName(row)}</small>
          </li>
        ))}
      </ol>
      {waiting.length > mostInLine && <span>and {waiting.length - mostInLine} more</span>}
    </div>
  )
}
