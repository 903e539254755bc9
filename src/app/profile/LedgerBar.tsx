import type { LedgerClass } from '../../core/profile/figures/ledger.ts'
import type { Metrics } from '../../core/profile/figures/metric-definitions.ts'
import { classWords } from '../map/map-words.ts'

interface LedgerBarProps {
  metrics: Metrics
  classes: readonly LedgerClass[]
  onPick: (name: LedgerClass) => void
}

/** Parts narrower than this share of the bar show their name only on hover. */
const roomForName = 0.11

/** Every byte received, in one bar: its parts sum to the whole. */
export function LedgerBar({ metrics, classes, onPick }: LedgerBarProps) {
  const received = metrics['bytes.received'] ?? 0
  // With local pictures alone, the cost is in reading and decoding.
  if (received === 0) {
    const local = (metrics['tier.localShare'] ?? 0) > 0
    const [decodeMs, wastedMs] = [metrics['decode.ms'] ?? 0, metrics['decode.wastedMs'] ?? 0]
    return (
      <p className="tt-ledger tt-quiet">
        {local
          ? `No byte came over the network: ${metrics['decode.count']} pictures read from this device, ${decodeMs.toFixed(0)} ms of decoding, ${wastedMs.toFixed(0)} ms of it wasted.`
          : 'No byte was received in this run.'}
      </p>
    )
  }
  const mb = (bytes: number) =>
    bytes >= 100_000 ? `${(bytes / 1e6).toFixed(2)} MB` : `${(bytes / 1000).toFixed(1)} kB`
  return (
    <div className="tt-ledger" role="group" aria-label={`Every byte accounted for: ${mb(received)} received`}>
      {classes.map((name) => {
        const bytes = metrics[`bytes.${name}`] ?? 0
        if (bytes === 0) return null
        const { name: word, hue, explain } = classWords[name]
        const share = bytes / received
        return (
          <button
            key={name}
            type="button"
            onClick={() => onPick(name)}
            className={name === 'cutOff' ? 'is-hatched' : ''}
            style={{ flexGrow: share, backgroundColor: `var(${hue}-fill, var(${hue}))` }}
            data-explain={`${word}: ${bytes.toLocaleString('en')} bytes, ${(100 * share).toFixed(1)} %. ${explain}`}
            aria-label={`${word}, ${mb(bytes)}`}
          >
            {/* Where only the name fits, the number goes to a hidden line: complete, with its unit. */}
            <span>{share >= roomForName ? `${word} ${mb(bytes).replace(' ', '\u00a0')}` : ''}</span>
          </button>
        )
      })}
    </div>
  )
}
