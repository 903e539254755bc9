import { mapClasses } from '../../core/profile/views/map-data.ts'
import { classWords } from '../map/map-words.ts'
import type { TinyMap as Tiny } from '../../core/profile/views/tiny-map.ts'

const size = { width: 54, height: 18 }

/** A run's map as small as a word: the gesture, and where requests ended. */
export function TinyMap({ tiny }: { tiny: Tiny | undefined }) {
  return (
    <svg className="tt-tiny-map" viewBox={`0 0 ${size.width} ${size.height}`} aria-hidden>
      {tiny?.ends.map(([x, y, kind], i) => (
        <rect
          key={i}
          x={x * size.width}
          y={y * size.height}
          width={1}
          height={1}
          fill={`var(${classWords[mapClasses[kind]!].hue})`}
        />
      ))}
      {tiny && (
        <polyline
          points={`0 0 ${tiny.line.map(([x, y]) => `${x * size.width} ${y * size.height}`).join(' ')}`}
          fill="none"
          stroke="var(--deep)"
          strokeWidth={0.8}
        />
      )}
    </svg>
  )
}
