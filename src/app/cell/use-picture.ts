import { useEffect, useState } from 'react'
import type { Box } from '../../core/layout/cell-geometry.ts'
import type { Item, Screen, Slot } from '../../core/project/types.ts'
import { samplePicture } from './sample-picture.ts'

/** How long settings rest before a sample is loaded by them, ms. */
const restMs = 120

/** A sample item's picture, loaded and decoded as the slot asks for it; null while there is none. */
export function usePicture(screen: Screen, slot: Slot | undefined, item: Item, box: Box | null, density: number): ImageBitmap | null {
  const [picture, setPicture] = useState<ImageBitmap | null>(null)
  const width = Math.max(1, Math.round((box?.width ?? 0) * density))
  const height = Math.max(1, Math.round((box?.height ?? 0) * density))
  useEffect(() => {
    if (!slot) return
    let stands = true
    const timer = setTimeout(() => {
      samplePicture(screen, slot, item, { width, height }, density).then((loaded) => stands && setPicture(loaded), () => stands && setPicture(null))
    }, restMs)
    return () => {
      stands = false
      clearTimeout(timer)
    }
    // The picture depends on where it comes from and how large it is wanted, not on every other setting.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [item, width, height, slot?.address, slot?.fit, slot?.decodeAt, slot?.treatments, slot?.shapeAt, slot?.cornersDp, slot?.circle, slot?.position, screen.feed.base])
  return picture
}
