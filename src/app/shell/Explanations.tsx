import { useCallback, useEffect, useState, useSyncExternalStore } from 'react'
import Overlay from 'react-bootstrap/Overlay'
import Tooltip from 'react-bootstrap/Tooltip'

const id = 'explanation'
/** How long the pointer rests on something before its explanation is shown, ms. */
const restMs = 350

/** The element whose explanation belongs to an event's target: the target or an ancestor. */
const explained = (target: EventTarget | null) =>
  target instanceof Element ? target.closest<HTMLElement>('[data-explain]:not([data-explain=""])') : null

/** The tooltip of an element, as it changes: a handle that is stepped by keys shows its present value. */
function useExplanation(element: HTMLElement | null): string {
  const follow = useCallback(
    (changed: () => void) => {
      const observer = new MutationObserver(changed)
      if (element) observer.observe(element, { attributeFilter: ['data-explain'] })
      return () => observer.disconnect()
    },
    [element],
  )
  return useSyncExternalStore(follow, () => element?.dataset.explain ?? '')
}

/**
 * Explanations of the whole page: an element's `data-explain` is shown beside it while the pointer rests on it, while
 * the keyboard's focus is on it or in it, and on a touch. Escape and any press close it.
 */
export default function Explanations() {
  const [shown, setShown] = useState<HTMLElement | null>(null)
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined
    let hovered: HTMLElement | null = null
    /**
     * Where the pointer was pressed: until it leaves that place nothing is explained, since what moves under it was not
     * pointed at.
     */
    let pressed: { x: number; y: number } | null = null
    /** The pointer may have arrived before the listener was there: then its next move shows the explanation. */
    let seen = false
    const show = (element: HTMLElement | null) => {
      clearTimeout(timer)
      hovered = element
      setShown(element)
    }
    const listeners = new AbortController()
    const on = <Name extends keyof DocumentEventMap>(name: Name, act: (event: DocumentEventMap[Name]) => void) =>
      document.addEventListener(name, act, { signal: listeners.signal, capture: true, passive: true })
    const point = ({ target, pointerType, buttons, clientX, clientY }: PointerEvent) => {
      seen = true
      if (pressed?.x === clientX && pressed.y === clientY) return
      pressed = null
      const element = explained(target)
      if (element === hovered || pointerType === 'touch' || buttons > 0) return
      show(null)
      hovered = element
      if (element) timer = setTimeout(() => element.isConnected && setShown(element), restMs)
    }
    on('pointerover', point)
    on('pointermove', (event) => (pressed || !seen) && point(event))
    on('pointerdown', ({ clientX, clientY }) => {
      show(null)
      pressed = { x: clientX, y: clientY }
    })
    on('pointerup', ({ target, pointerType }) => pointerType === 'touch' && show(explained(target)))
    on(
      'focusin',
      ({ target }) => target instanceof Element && target.matches(':focus-visible') && show(explained(target)),
    )
    // The focus does not close what the pointer rests on.
    on('focusout', ({ target }) => target instanceof Node && hovered?.contains(target) && show(null))
    on('wheel', () => show(null))
    on('keydown', ({ key }) => key === 'Escape' && show(null))
    return () => {
      clearTimeout(timer)
      listeners.abort()
    }
  }, [])
  useEffect(() => {
    if (!shown) return
    const before = shown.getAttribute('aria-describedby')
    shown.setAttribute('aria-describedby', id)
    return () => {
      if (before === null) shown.removeAttribute('aria-describedby')
      else shown.setAttribute('aria-describedby', before)
    }
  }, [shown])
  const text = useExplanation(shown)
  if (!shown?.isConnected || text === '') return null
  return (
    <Overlay target={shown} show placement="auto" transition={false}>
      <Tooltip id={id}>{text}</Tooltip>
    </Overlay>
  )
}
