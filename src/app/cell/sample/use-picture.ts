import { useEffect, useState } from 'react'
import type { Box } from '../../../core/layout/cell-geometry.ts'
import type { Item, Screen, Slot } from '../../../core/project/types.ts'
import { useProject } from '../../store/project-store.ts'
import { samplePicture } from './sample-picture.ts'

/** How long settings must be unchanged before a sample is loaded with them, ms. */
const restMs = 120

export interface Sample {
  /** null while there is none. */
  picture: ImageBitmap | null
  /** Why it is unavailable; null: it is not. */
  trouble: string | null
}

const none: Sample = { picture: null, trouble: null }

/** A sample item's picture, loaded and decoded as the slot asks for it. */
export function usePicture(
  screen: Screen,
  slot: Slot | undefined,
  item: Item,
  box: Box | null,
  density: number,
): Sample {
  const state = useProject()!
  const [sample, setSample] = useState<Sample>(none)
  const width = Math.max(1, Math.round((box?.width ?? 0) * density))
  const height = Math.max(1, Math.round((box?.height ?? 0) * density))
  useEffect(() => {
    if (!slot) return
    let current = true
    const timer = setTimeout(() => {
      samplePicture(state, screen, slot, item, { width, height }).then(
        (picture) => current && setSample({ picture, trouble: null }),
        (error: unknown) =>
          current && setSample({ picture: null, trouble: error instanceof Error ? error.message : String(error) }),
      )
    }, restMs)
    return () => {
      current = false
      clearTimeout(timer)
    }
    // The picture depends on where it comes from and how large it is wanted, not on every other setting.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [
    item,
    width,
    height,
    state.id,
    slot?.address,
    slot?.fit,
    slot?.decodeAt,
    slot?.treatments,
    slot?.shapeAt,
    slot?.cornersDp,
    slot?.circle,
    slot?.position,
    slot?.media,
    screen.feed.base,
    state.project.loading.cleartextHosts,
    state.project.loading.headers,
    state.project.device.granted,
  ])
  return sample
}
