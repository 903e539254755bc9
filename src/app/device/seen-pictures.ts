import type { RunLog } from '../../core/log/run-log.ts'

/** px, bytes of pictures that live runs have seen, for simulations of hosts that the core does not know. */
const seen = new Map<string, { bytes: number; width: number; height: number }>()

/** px and bytes of pictures that live runs have seen, by address. */
export const seenPictures = () => [...seen]

/** Notes what a live run has seen of its pictures. */
export function seePictures({ assets }: RunLog): void {
  for (const { address, bytes, sourceWidth, sourceHeight } of assets)
    if (bytes > 0 && sourceWidth > 0) seen.set(address, { bytes, width: sourceWidth, height: sourceHeight })
}
