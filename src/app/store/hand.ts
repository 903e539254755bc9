let presses = 0
let press: number | null = null

/** The press of a pointer that lasts, by its number; null: nothing is held. */
export const currentPress = (): number | null => press

let moving = false

/** Whether a hand moves a handle at this moment. */
export const handMoves = (): boolean => moving

/** What a moved handle changes: what follows the hand may be shown before the rest of the page. */
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
 * Follows the pointer over the whole page: what changes during one press is one change, however slowly the page
 * answers.
 */
export function followHand(page: Window): void {
  page.addEventListener('pointerdown', handPressed, { capture: true })
  // After everybody else's: the last change of a drag is made as it is let go.
  page.addEventListener('pointerup', handLifted)
  page.addEventListener('pointercancel', handLifted)
}
