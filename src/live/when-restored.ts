/**
 * Calls `draw` whenever a canvas has lost what was drawn into it and can be drawn again: the browser's graphics process
 * was started anew, as after a long sleep or a failure of its driver.
 *
 * @returns stops that
 */
export function whenRestored(canvas: HTMLCanvasElement, draw: () => void): () => void {
  canvas.addEventListener('contextrestored', draw)
  return () => canvas.removeEventListener('contextrestored', draw)
}
