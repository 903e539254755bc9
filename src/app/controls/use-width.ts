import { useEffect, useRef, useState, type RefObject } from 'react'

/** The width of an element on the page, px, followed as it changes; `before`: the width assumed until it is there. */
export function useWidth<T extends HTMLElement>(before: number): [RefObject<T | null>, number] {
  const box = useRef<T>(null)
  const [width, setWidth] = useState(before)
  useEffect(() => {
    const observer = new ResizeObserver(([entry]) => setWidth(entry!.contentRect.width))
    observer.observe(box.current!)
    return () => observer.disconnect()
  }, [])
  return [box, width]
}
