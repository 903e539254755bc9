import type { Fit, Slot } from '../project/types.ts'

/** One treatment or shape that is applied to a picture at decode; lengths in px. */
export type Making =
  | { type: 'grayscale'; amount: number }
  | { type: 'blur'; radiusPx: number }
  | { type: 'tint'; colour: string; amount: number }
  /** Cut to a circle, or to corners clockwise from the top left; `position` of the picture in the slot, 0–1. */
  | { type: 'shape'; circle: boolean; cornersPx: readonly number[]; position: readonly [number, number] }

/** The px that a slot wants of a picture, and how the picture is fitted into it. */
export interface Target {
  width: number
  height: number
  fit: Fit
  decodeAt: Slot['decodeAt']
  /** Treatments and shape made at decode, in their order; renditions that differ in it are different ones. */
  making: readonly Making[]
  /** Which moments of a moving picture are decoded: every frame, the first one, or one so many ms in. */
  moments?: 'all' | 'first' | { ms: number }
}

export interface Size {
  width: number
  height: number
}

/** A rendition with more px than this fails as too large (engine.md, Loading). */
export const maxPixels = 64_000_000
/** An asset of more bytes than this fails as too large. */
export const maxAssetBytes = 32 * 1024 * 1024

/**
 * The px that a source is decoded to. At slot size: just enough to fill or fit the slot without enlarging; fixed: the
 * longer side at most so long; original: as it was sent.
 */
export function decodedSize(source: Size, target: Target): Size {
  if (target.decodeAt.type === 'original') return source
  const scale = Math.min(
    1,
    target.decodeAt.type === 'fixed'
      ? target.decodeAt.px / Math.max(source.width, source.height)
      : slotScale(source, target),
  )
  return {
    width: Math.max(1, Math.round(source.width * scale)),
    height: Math.max(1, Math.round(source.height * scale)),
  }
}

function slotScale(source: Size, target: Target): number {
  const across = target.width / source.width
  const down = target.height / source.height
  switch (target.fit) {
    case 'cover':
    case 'fill':
      return Math.max(across, down)
    case 'contain':
    case 'scale-down':
      return Math.min(across, down)
    case 'none':
      return 1
  }
}

/** How large a picture is drawn in a slot by its fit (CSS object-fit), px. */
export function drawnSize(picture: Size, slot: Size, fit: Fit): Size {
  const across = slot.width / picture.width
  const down = slot.height / picture.height
  const scaled = (scale: number) => ({ width: picture.width * scale, height: picture.height * scale })
  switch (fit) {
    case 'fill':
      return { width: slot.width, height: slot.height }
    case 'cover':
      return scaled(Math.max(across, down))
    case 'contain':
      return scaled(Math.min(across, down))
    case 'none':
      return scaled(1)
    case 'scale-down':
      return scaled(Math.min(1, across, down))
  }
}

/** Memory of a decoded picture: four bytes a px, for each of its frames. */
export const pictureBytes = (size: Size & { frames?: number }) => size.width * size.height * 4 * (size.frames ?? 1)

/** Whether an address leads to a video, going by the address alone: a poster is cut from it. */
export const isVideo = (address: string) => /^data:video\/|\.(webm|mp4|m4v|mov)(?:[?#]|$)/i.test(address)
