import type { Step } from '../../core/project/types.ts'

type Name = Step['do']

/** The text of a flag on the axis; null: a gesture or a wait, which the curve itself shows. */
export function flagOf(step: Step): string | null {
  switch (step.do) {
    case 'wait':
    case 'drag':
    case 'flick':
    case 'to':
    case 'jump':
      return null
    case 'load':
      return `load ${step.address} at ${step.px} px`
    case 'edit':
      return `${step.op}${step.op === 'refresh' ? '' : ` ${step.count} at ${step.at}`}`
    case 'open':
      return `open ${step.screen}`
    default:
      return words[step.do]
  }
}

const words: Record<Exclude<Name, 'wait' | 'drag' | 'flick' | 'to' | 'jump' | 'load' | 'edit' | 'open'>, string> = {
  leave: 'leave',
  return: 'return',
  back: 'back',
  background: 'background',
  foreground: 'foreground',
  rotate: 'turn',
  offline: 'network gone',
  online: 'network back',
  pressure: 'memory pressure',
  collect: 'collect',
}

/** Pairs of steps that are drawn as a band from the one to the other. */
export const bands: readonly { from: Name; to: Name; name: string; look: string }[] = [
  { from: 'offline', to: 'online', name: 'no network', look: 'offline' },
  { from: 'background', to: 'foreground', name: 'in the background', look: 'away' },
  { from: 'leave', to: 'return', name: 'another screen', look: 'away' },
  { from: 'open', to: 'back', name: 'an item is open', look: 'away' },
]

/** What can be added behind a point, with a wait where it would coincide with the next. */
export const additions = (
  otherScreen: string,
): readonly { name: string; explain: string; steps: readonly Step[] }[] => [
  {
    name: 'flick',
    explain: 'A flick downward, and time to run out',
    steps: [
      { do: 'flick', dpPerS: 6000 },
      { do: 'wait', ms: 1500 },
    ],
  },
  {
    name: 'drag',
    explain: 'A slow drag',
    steps: [
      { do: 'drag', dp: 800, ms: 1200 },
      { do: 'wait', ms: 400 },
    ],
  },
  {
    name: 'way to a row',
    explain: 'To a row at a speed',
    steps: [
      { do: 'to', where: 60, dpPerS: 5000 },
      { do: 'wait', ms: 500 },
    ],
  },
  {
    name: 'jump',
    explain: 'To a row at once',
    steps: [
      { do: 'jump', row: 40 },
      { do: 'wait', ms: 1000 },
    ],
  },
  {
    name: 'no network',
    explain: 'The network is gone for two seconds',
    steps: [{ do: 'offline' }, { do: 'wait', ms: 2000 }, { do: 'online' }, { do: 'wait', ms: 500 }],
  },
  {
    name: 'background',
    explain: 'The app goes into the background and comes back',
    steps: [{ do: 'background' }, { do: 'wait', ms: 2000 }, { do: 'foreground' }, { do: 'wait', ms: 500 }],
  },
  {
    name: 'leave',
    explain: 'The screen is left and entered again',
    steps: [{ do: 'leave' }, { do: 'wait', ms: 1500 }, { do: 'return' }, { do: 'wait', ms: 500 }],
  },
  {
    name: 'open an item',
    explain: 'Another screen opens for an item, and the way back',
    steps: [
      { do: 'open', screen: otherScreen, item: 12 },
      { do: 'wait', ms: 1500 },
      { do: 'back' },
      { do: 'wait', ms: 500 },
    ],
  },
  { name: 'turn', explain: 'The device is turned', steps: [{ do: 'rotate' }, { do: 'wait', ms: 800 }] },
  {
    name: 'memory pressure',
    explain: 'The system wants memory back',
    steps: [{ do: 'pressure' }, { do: 'wait', ms: 300 }],
  },
  {
    name: 'collect',
    explain: 'Memory is collected now, so that what stays in it can be read: “after a collection” in Profile',
    steps: [{ do: 'collect' }, { do: 'wait', ms: 300 }],
  },
  {
    name: 'insert on top',
    explain: 'New items arrive at the top',
    steps: [
      { do: 'edit', op: 'insert', at: 0, count: 3, to: 0 },
      { do: 'wait', ms: 500 },
    ],
  },
  {
    name: 'load',
    explain: 'A picture for another use is loaded',
    steps: [
      { do: 'load', address: 'tiles/4711', px: 96 },
      { do: 'wait', ms: 300 },
    ],
  },
]
