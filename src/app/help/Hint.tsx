import { useEffect, useState } from 'react'
import CloseButton from 'react-bootstrap/CloseButton'
import Overlay from 'react-bootstrap/Overlay'
import Popover from 'react-bootstrap/Popover'
import type { Placement } from 'react-bootstrap/types'
import { useLocation } from 'react-router'
import { useDevice } from '../device/device-store.ts'
import { withinProject } from '../shell/address.ts'
import { useRuns } from '../store/run-store.ts'
import { useHelp } from './help-store.ts'
import { followed, prefer, usePreferences, type HintName } from './preferences.ts'

/** The target of a hint, the side of it, and the text. */
const hints: Record<HintName, { at: string; side: Placement; title: string; text: string }> = {
  drive: {
    at: '[data-hint="drive"]',
    side: 'top',
    title: 'Drive it',
    text: 'The list is driven by the same gesture each time, and every request is recorded.',
  },
  profile: {
    at: '[data-hint="profile"]',
    side: 'top',
    title: 'Red and purple is waste',
    text: 'Purple was loaded and never seen, red has failed. Open Profile to see why.',
  },
  try: {
    at: '[data-hint="try"]',
    side: 'top',
    title: 'Try this fix',
    text: 'It was simulated on ten seeds. One button applies it, and one takes it back.',
  },
  feed: {
    at: '[data-hint="feed"]',
    side: 'bottom',
    title: 'Your own feed',
    text: 'Paste or open a feed here, and bind its pictures by clicks.',
  },
}

/** One hint at a time, beside where the next action is. */
export default function Hint() {
  const hint = usePreferences(({ hint }) => hint)
  useFollowed()
  const helping = useHelp()
  // Nothing else is drawn over the list while it is driven.
  const driving = useDevice(({ mode }) => mode === 'driving')
  const shown = hint === 'away' || helping || driving ? null : hints[hint]
  const target = useTarget(shown && shown.at)
  const moves = useMoves(target)
  if (shown === null || target === null) return null
  const { side, title, text } = shown
  return (
    <Overlay key={`${hint} ${moves}`} target={target} show placement={side} transition={false}>
      <Popover id="hint" className="tt-hint" role="note">
        <Popover.Header as="h2">
          {title}
          <CloseButton aria-label="Close the hints" onClick={() => prefer({ hint: 'away' })} />
        </Popover.Header>
        <Popover.Body>{text}</Popover.Body>
      </Popover>
    </Overlay>
  )
}

/** What a hint suggests was done: in any way, not only where it points. */
function useFollowed(): void {
  const hint = usePreferences(({ hint }) => hint)
  const hasRun = useRuns().list.length > 0
  const place = withinProject(useLocation().pathname)
  useEffect(() => {
    if (hint === 'drive' && hasRun) followed('drive')
    else if (hint === 'profile' && place.startsWith('/profile')) followed('profile')
    else if (hint === 'feed' && place === '/feed') followed('feed')
  }, [hint, hasRun, place])
}

/** How often the parts around an element have changed their size since it was found: it may be elsewhere then. */
function useMoves(target: HTMLElement | null): number {
  const [moves, setMoves] = useState(0)
  useEffect(() => {
    if (target === null) return
    const sizes = new ResizeObserver(() => setMoves((before) => before + 1))
    for (const part of document.querySelectorAll('.tt-panel, .tt-device-panel')) sizes.observe(part)
    return () => sizes.disconnect()
  }, [target])
  return moves
}

/** The element that a selector finds, as it comes and goes. */
function useTarget(selector: string | null): HTMLElement | null {
  const [target, setTarget] = useState<HTMLElement | null>(null)
  useEffect(() => {
    if (selector === null) return
    const look = () => setTarget(document.querySelector<HTMLElement>(selector))
    const shell = document.querySelector('.tt-shell')!
    // Changes within the device are left out: there something changes in each frame.
    const parts = new MutationObserver(look)
    parts.observe(shell, { childList: true })
    parts.observe(shell.querySelector('.tt-panel')!, { childList: true, subtree: true })
    const marks = new MutationObserver(look)
    marks.observe(shell, { subtree: true, attributeFilter: ['data-hint'] })
    look()
    return () => {
      parts.disconnect()
      marks.disconnect()
    }
  }, [selector])
  return selector !== null && target?.matches(selector) ? target : null
}
