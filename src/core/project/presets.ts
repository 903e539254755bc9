import type { Device, Loading, NetworkSettings, Script, Step } from './types.ts'

/** Built-in values with a name and one line of reason. They are illustrative: no real device or network is meant. */
export interface Preset<T> {
  name: string
  why: string
  values: T
}

export const devicePresets: readonly Preset<
  Pick<Device, 'widthDp' | 'heightDp' | 'density' | 'refreshHz' | 'speed' | 'heapMb'>
>[] = [
  {
    name: 'Mid 60',
    why: 'An everyday phone.',
    values: { widthDp: 411, heightDp: 823, density: 2.625, refreshHz: 60, speed: 1, heapMb: 256 },
  },
  {
    name: 'Old 60',
    why: 'A phone a few years old: half as fast, little memory.',
    values: { widthDp: 360, heightDp: 640, density: 2, refreshHz: 60, speed: 0.45, heapMb: 128 },
  },
  {
    name: 'Swift 120',
    why: 'Twice the frames: half the time for each.',
    values: { widthDp: 412, heightDp: 915, density: 3.5, refreshHz: 120, speed: 2.2, heapMb: 512 },
  },
  {
    name: 'Slate 60',
    why: 'A tablet: more rows and larger pictures at once.',
    values: { widthDp: 800, heightDp: 1280, density: 2, refreshHz: 60, speed: 1.2, heapMb: 384 },
  },
]

type Link = Pick<NetworkSettings, 'rttMs' | 'jitterMs' | 'downKbps' | 'protocol' | 'setupRtts' | 'thinkMs' | 'metered'>
export const networkPresets: readonly Preset<Link>[] = [
  {
    name: 'Ferry',
    why: 'A shared link far out: enough for a feed, not for a fast one.',
    values: { rttMs: 90, jitterMs: 20, downKbps: 4000, protocol: 'h2', setupRtts: 3, thinkMs: 20, metered: false },
  },
  {
    name: 'Kiln room',
    why: 'Wireless at home: what developers test with.',
    values: { rttMs: 12, jitterMs: 4, downKbps: 60_000, protocol: 'h2', setupRtts: 2, thinkMs: 15, metered: false },
  },
  {
    name: 'Coast road',
    why: 'A mobile link on the move.',
    values: { rttMs: 60, jitterMs: 30, downKbps: 12_000, protocol: 'h2', setupRtts: 3, thinkMs: 20, metered: true },
  },
  {
    name: 'Salt flats',
    why: 'The edge of the network: slow, and far from everything.',
    values: { rttMs: 320, jitterMs: 120, downKbps: 400, protocol: 'h1', setupRtts: 3, thinkMs: 30, metered: true },
  },
]

type Policy = Pick<
  Loading,
  | 'fetchSlots'
  | 'fetchSlotsPerHost'
  | 'order'
  | 'startBelowDpPerS'
  | 'memoryMb'
  | 'guard'
  | 'resetOnBind'
  | 'share'
  | 'decodeOn'
  | 'setup'
  | 'cancel'
  | 'ahead'
>

const cancel: Loading['cancel'] = {
  when: 'recycle',
  zoneRows: 3,
  keepAbove: 1,
  whenPaused: 'finish-running',
  whenLeft: 'let-go',
}
const ahead: Loading['ahead'] = { by: 'rows', amount: 2, direction: 'travel', onlyWhenIdle: true, lists: [] }
/** The base of the other policies: each is complete, so that one chosen after another leaves nothing of it behind. */
const steady: Policy = {
  fetchSlots: 6,
  fetchSlotsPerHost: 6,
  order: 'nearest',
  startBelowDpPerS: null,
  memoryMb: 32,
  guard: true,
  resetOnBind: true,
  share: true,
  decodeOn: 'workers',
  setup: 'app-start',
  cancel,
  ahead,
}

export const policyPresets: readonly Preset<Policy>[] = [
  { name: 'Steady', why: 'Nearest first, cut off at recycle, a little ahead: a good start.', values: steady },
  {
    name: 'Frugal',
    why: 'For metered links: nothing early, nothing while flicking, what is nearly there is finished.',
    values: {
      ...steady,
      fetchSlots: 4,
      fetchSlotsPerHost: 4,
      startBelowDpPerS: 1500,
      memoryMb: 48,
      cancel: { ...cancel, keepAbove: 0.7 },
      ahead: { ...ahead, amount: 0 },
    },
  },
  {
    name: 'Eager',
    why: 'For fast links: a screen ahead, both ways.',
    values: {
      ...steady,
      fetchSlots: 8,
      fetchSlotsPerHost: 8,
      memoryMb: 96,
      cancel: { ...cancel, when: 'zone', zoneRows: 6, keepAbove: 0.5 },
      ahead: { ...ahead, by: 'screens', amount: 1, direction: 'both' },
    },
  },
  {
    name: 'Settle first',
    why: 'Waits until the list is slow enough to be looked at.',
    values: { ...steady, startBelowDpPerS: 600, cancel: { ...cancel, keepAbove: 0.8 }, ahead: { ...ahead, amount: 3 } },
  },
  {
    name: 'Wired up by hand',
    why: 'What many apps do before anyone looks: no cancelling, first come first served, little kept.',
    values: {
      ...steady,
      fetchSlots: 4,
      fetchSlotsPerHost: 4,
      order: 'first-come',
      memoryMb: 8,
      guard: false,
      resetOnBind: false,
      share: false,
      cancel: { ...cancel, when: 'never' },
      ahead: { ...ahead, amount: 0, onlyWhenIdle: false },
    },
  },
]

/** Everyday gestures; a project gets a copy of the one that is picked. */
export const scriptPresets: readonly Script[] = [
  {
    name: 'Flick down and back',
    steps: [
      { do: 'wait', ms: 1200 },
      { do: 'flick', dpPerS: 9000 },
      { do: 'wait', ms: 1800 },
      { do: 'flick', dpPerS: 9000 },
      { do: 'wait', ms: 1800 },
      { do: 'flick', dpPerS: -9000 },
      { do: 'wait', ms: 1500 },
    ],
  },
  {
    name: 'Slow read',
    steps: [
      { do: 'wait', ms: 1000 },
      { do: 'drag', dp: 2400, ms: 9000 },
      { do: 'wait', ms: 600 },
    ],
  },
  {
    name: 'All the way at a speed',
    steps: [
      { do: 'wait', ms: 600 },
      { do: 'to', where: 'end', dpPerS: 6000 },
      { do: 'wait', ms: 1000 },
    ],
  },
  {
    name: 'Jump',
    steps: [
      { do: 'wait', ms: 1000 },
      { do: 'jump', row: 120 },
      { do: 'wait', ms: 2000 },
      { do: 'jump', row: 0 },
      { do: 'wait', ms: 1000 },
    ],
  },
  {
    name: 'Leave and return',
    steps: [
      { do: 'wait', ms: 1000 },
      { do: 'flick', dpPerS: 6000 },
      { do: 'wait', ms: 900 },
      { do: 'leave' },
      { do: 'wait', ms: 1500 },
      { do: 'return' },
      { do: 'wait', ms: 1200 },
    ],
  },
  {
    name: 'Open an item and go back',
    steps: [
      { do: 'wait', ms: 1200 },
      { do: 'flick', dpPerS: 5000 },
      { do: 'wait', ms: 1500 },
      { do: 'open', screen: 'item', item: 12 },
      { do: 'wait', ms: 2000 },
      { do: 'back' },
      { do: 'wait', ms: 1200 },
    ],
  },
  {
    name: 'Turn the device',
    steps: [
      { do: 'wait', ms: 1200 },
      { do: 'flick', dpPerS: 5000 },
      { do: 'wait', ms: 1500 },
      { do: 'rotate' },
      { do: 'wait', ms: 2000 },
      { do: 'rotate' },
      { do: 'wait', ms: 1500 },
    ],
  },
  {
    name: 'Into the background',
    steps: [
      { do: 'wait', ms: 600 },
      { do: 'flick', dpPerS: 8000 },
      { do: 'wait', ms: 400 },
      { do: 'background' },
      { do: 'wait', ms: 2000 },
      { do: 'foreground' },
      { do: 'wait', ms: 1500 },
    ],
  },
  {
    name: 'A picture on the side',
    steps: [
      { do: 'wait', ms: 300 },
      { do: 'load', address: 'tiles/4711', px: 96 },
      { do: 'flick', dpPerS: 6000 },
      { do: 'wait', ms: 2000 },
    ],
  },
]

/** The longest time for a whole list, s, however long it is. */
const mostWholeListS = 20

/** A gesture adapted to a list: what goes all the way goes to its end, and a jump leads to its middle. */
export function scriptFor(script: Script, list: { rows: number; endDp: number; otherScreen: string }): Script {
  const fitted = (step: Step): Step => {
    switch (step.do) {
      case 'open':
        return { ...step, screen: list.otherScreen }
      case 'to':
        return step.where === 'end'
          ? { ...step, dpPerS: Math.min(1_000_000, Math.max(step.dpPerS, Math.ceil(list.endDp / mostWholeListS))) }
          : step
      case 'jump':
        return step.row === 0 ? step : { ...step, row: Math.floor(list.rows / 2) }
      default:
        return step
    }
  }
  return { ...script, steps: script.steps.map(fitted) }
}
