import { useLayoutEffect, useState, type RefObject } from 'react'

/** The frame around the glass, px on both sides together. */
const framePx = 10

/** The scale at which all of the device fits the room that there is. */
export function useDeviceScale(
  area: RefObject<HTMLElement | null>,
  device: { widthDp: number; heightDp: number } | null,
): number {
  const [scale, setScale] = useState(0.6)
  const width = device?.widthDp ?? 1
  const height = device?.heightDp ?? 1
  useLayoutEffect(() => {
    const element = area.current
    if (!element) return
    const observer = new ResizeObserver(([entry]) => {
      const { width: wide, height: tall } = entry!.contentRect
      setScale(Math.max(0.1, Math.min((wide - framePx) / width, (tall - framePx) / height)))
    })
    observer.observe(element)
    return () => observer.disconnect()
  }, [area, width, height])
  return scale
}
