import { useEffect, useRef, useState } from 'react'
import type { StoredLog, StoredRun } from '../store/database.ts'
import type { PlayedRun } from './played-run.ts'

interface PlayedDeviceProps {
  run: StoredRun
  kept: StoredLog
  ms: number
  /** CSS px for one dp. */
  scale: number
}

/** The device's screen as it was at a moment of a kept run, drawn from its log. */
export default function PlayedDevice({ run, kept, ms, scale }: PlayedDeviceProps) {
  const host = useRef<HTMLDivElement>(null)
  const played = useRef<PlayedRun | null>(null)
  const wanted = useRef(ms)
  const busy = useRef(false)
  const pxPerDp = useRef(scale * devicePixelRatio)
  const [size, setSize] = useState({ width: 411, height: 823 })
  const [trouble, setTrouble] = useState<string | null>(null)
  const [drawnMs, setDrawnMs] = useState<number | null>(null)
  const [missing, setMissing] = useState(0)
  const [withoutTexts, setWithoutTexts] = useState<string | null>(null)

  const follow = useRef(async () => {
    // One screen at a time; the newest requested moment counts.
    if (busy.current || !played.current) return
    busy.current = true
    try {
      for (let done: number | null = null; done !== wanted.current && played.current;) {
        const at: number = wanted.current
        const { list, screenAt } = played.current
        await list.show(await screenAt(at))
        setDrawnMs(at)
        setMissing(list.missing.size)
        done = at
      }
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error))
    } finally {
      busy.current = false
    }
  })

  useEffect(() => {
    let mounted = true
    const element = host.current!
    const open = async () => {
      const { openPlayed } = await import('./played-run.ts')
      const opened = await openPlayed(run, kept, () => pxPerDp.current)
      if (!mounted) return void opened.list.close()
      played.current = opened
      setSize({ width: opened.widthDp, height: opened.heightDp })
      setWithoutTexts(opened.withoutTexts)
      element.replaceChildren(opened.list.element)
      await follow.current()
    }
    open().catch((error: unknown) => mounted && setTrouble(error instanceof Error ? error.message : String(error)))
    return () => {
      mounted = false
      const { current } = played
      played.current = null
      void current?.list.close()
    }
    // A kept run never changes.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [run.id, kept.run])

  useEffect(() => {
    wanted.current = ms
    void follow.current()
  }, [ms])
  useEffect(() => {
    pxPerDp.current = scale * devicePixelRatio
  }, [scale])

  return (
    <>
      <div
        className="tt-played"
        role="img"
        aria-label={`The screen of run ${run.number} at ${(ms / 1000).toFixed(2)} seconds`}
        data-ms={drawnMs ?? undefined}
        ref={host}
        style={{ width: size.width, height: size.height, zoom: scale }}
      />
      {(missing > 0 || withoutTexts) && (
        <p className="tt-played-note" role="status">
          {missing > 0 &&
            `${missing} ${missing === 1 ? 'picture' : 'pictures'} ${missing === 1 ? 'is' : 'are'} no longer available; placeholders are shown instead. `}
          {withoutTexts && `Texts are missing: ${withoutTexts}`}
        </p>
      )}
      {trouble && (
        <p className="tt-trouble" role="alert">
          The run cannot be played: {trouble}
        </p>
      )}
    </>
  )
}
