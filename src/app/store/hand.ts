let presses = 0
let press: number | null = null

/** The number of the pointer that is pressed; null: none. */
export const currentPress = (): number | null => press

let moving = false

/** Whether a handle is being moved at this moment. */
export const handMoves = (): boolean => moving

/** A change by a moved handle: what follows the hand may be shown before the rest of the page. */
export function moveByHand(change: () => void): void {
  moving = true
  try {
    change()
  } finally {
    moving = false
  }
}

export function handPressed(): void {
  press = ++presses
}

export function handLifted(): void {
  press = null
}

/**
 * Follows the pointer over the whole page: changes during one press are one change, however slowly the page answers.
 */
export function followHand(page: Window): void {
  page.addEventListener('pointerdown', handPressed, { capture: true })
  // After all other listeners: the last change of a drag is made on release.
  page.addEventListener('pointerup', handLifted)
  page.addEventListener('pointercancel', handLifted)
}
