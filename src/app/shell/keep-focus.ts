/** Elements that the keyboard can reach, hidden or not. */
const reachable =
  'a[href], button:enabled, input:enabled, select:enabled, textarea:enabled, summary, [tabindex]:not([tabindex="-1"])'

/** The element that has the focus, and its surroundings when it got it. */
interface Place {
  readonly element: HTMLElement
  /** From its parent outwards, to the body. */
  readonly around: readonly HTMLElement[]
  /** What the keyboard could reach then, in the order of the page. */
  readonly all: readonly HTMLElement[]
  readonly at: number
}

/**
 * Keeps the focus beside the place where it was when the focused element goes away: deleted, renamed, closed, or
 * disabled. Otherwise the focus would fall to the page, and the next Tab would begin at its top. It moves to what is in
 * that place now, else to the next of its kind in the same group, else to what is next or before; an element that is
 * only disabled for a while gets it back.
 *
 * @returns stops it again /
 */
export function keepFocus(page: Document): () => void {
  let place: Place | null = null
  /** The element that lost the focus by being disabled, and the one that has it meanwhile. */
  let moved: { readonly from: HTMLElement; readonly to: HTMLElement } | null = null
  let wasOut = false
  let asked = 0
  const look = () => {
    asked = 0
    const at = page.activeElement
    // It is not given back when the user has moved it meanwhile, or has pressed beside it.
    if (moved && at !== moved.to && (at !== page.body || isUsable(moved.to))) moved = null
    if (moved && isUsable(moved.from)) {
      const { from } = moved
      moved = null
      from.focus({ preventScroll: true })
      return
    }
    if (!place || (at !== page.body && at !== place.element)) return
    const { element } = place
    if (isUsable(element)) {
      // Either it was disabled for less than a frame, or the user pressed beside it: then the focus was meant to go.
      if (wasOut) element.focus({ preventScroll: true })
      else if (at === page.body) place = null
      wasOut = false
      return
    }
    const next = standIn(place)
    next?.focus({ preventScroll: true })
    const from = moved?.from.isConnected ? moved.from : element
    moved = next && from.isConnected ? { from, to: next } : null
  }
  // After the code that removes the element has had the chance to set the focus.
  const lookSoon = () => {
    if (asked === 0) asked = requestAnimationFrame(look)
  }
  const onFocus = ({ target }: FocusEvent) => {
    if (!(target instanceof HTMLElement)) return
    place = placeOf(page, target)
    wasOut = false
  }
  page.addEventListener('focusin', onFocus)
  const events = ['focusout', 'click', 'keyup'] as const
  for (const event of events) page.addEventListener(event, lookSoon)
  const watched = new MutationObserver((changes) => {
    // Nothing in a list of pictures takes the focus, and where an element shows is not asked for in its frames.
    if (changes.every(({ target }) => target instanceof Element && target.closest('.tt-list'))) return
    if (changes.some(({ type, target }) => type === 'attributes' && target === place?.element)) wasOut = true
    if (wasOut || moved || (place && page.activeElement !== place.element) || (place && !isEnabled(place.element)))
      lookSoon()
  })
  watched.observe(page.body, { childList: true, subtree: true, attributes: true, attributeFilter: ['disabled'] })
  return () => {
    page.removeEventListener('focusin', onFocus)
    for (const event of events) page.removeEventListener(event, lookSoon)
    watched.disconnect()
    cancelAnimationFrame(asked)
  }
}

const isEnabled = (element: HTMLElement) => element.isConnected && !element.matches(':disabled')
const isUsable = (element: HTMLElement) => isEnabled(element) && element.checkVisibility()

function placeOf(page: Document, element: HTMLElement): Place {
  const around: HTMLElement[] = []
  for (let each = element.parentElement; each; each = each.parentElement) around.push(each)
  const all = [...page.querySelectorAll<HTMLElement>(reachable)]
  return { element, around, all, at: all.indexOf(element) }
}

function standIn({ element, around, all, at }: Place): HTMLElement | null {
  const known = new Set(all)
  const after = at < 0 ? [] : all.slice(at + 1)
  const before = at < 0 ? [] : all.slice(0, at).reverse()
  for (const group of around) {
    if (!group.isConnected) continue
    // When nothing nearer is left, a container that can be focused itself gets the focus.
    if (group.tabIndex === -1 && group.hasAttribute('tabindex')) return group
    const within = (each: HTMLElement) => group.contains(each) && isUsable(each)
    const ofItsKind = (each: HTMLElement) =>
      each.tagName === element.tagName && each.className === element.className && within(each)
    const found =
      [...group.querySelectorAll<HTMLElement>(reachable)].find((each) => !known.has(each) && isUsable(each)) ??
      after.find(ofItsKind) ??
      before.find(ofItsKind) ??
      after.find(within) ??
      before.find(within)
    if (found) return found
  }
  return null
}
