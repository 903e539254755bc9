import { settingAt } from '../../core/project/settings-index.ts'
import { Handle } from '../controls/Handle.tsx'
import { useWidth } from '../controls/use-width.ts'
import { set } from '../store/project-store.ts'

const path = '/loading/cancel/keepAbove'

/** The notch on a fetch: a transfer that nobody wants any more is finished from this share on, and cut off below it. */
export function KeepAbove({ share }: { share: number }) {
  const [bar, width] = useWidth<HTMLDivElement>(200)
  const percent = Math.round(100 * share)
  const word = keepText(share)
  return (
    <div className="tt-keep" data-explain={settingAt('/loading/cancel/keepAbove').explain}>
      <div className="tt-keep-bar" ref={bar}>
        <span className="is-cut" style={{ width: `${percent}%` }} />
        <Handle
          label="Keep above: share received"
          axis="x"
          value={percent}
          min={0}
          max={100}
          text={word}
          pxPerUnit={width / 100}
          style={{ left: `${percent}%` }}
          onChange={(next) => set(path, next / 100)}
        />
      </div>
      <small>When let go: {word}</small>
    </div>
  )
}

function keepText(share: number): string {
  if (share >= 1) return 'always cut off'
  return share <= 0 ? 'always finished' : `finished from ${Math.round(100 * share)} % on`
}
