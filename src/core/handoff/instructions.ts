import type { Project } from '../project/types.ts'

/** The places in an app's code, in the order in which the code runs. */
export const places = [
  'start-up',
  'list set-up',
  'cell creation',
  'bind',
  'recycle',
  'scroll',
  'pause and return',
  'leave',
  'memory pressure',
] as const
export type Place = (typeof places)[number]

/** One thing that an app's code does because of a setting. */
export interface Instruction {
  /** The setting, as a JSON Pointer into the project file. */
  path: string
  place: Place
  /** What to do, in plain words, for the value that it has. */
  say: (loading: Project['loading']) => string
}

function rowsOf({ ahead: { amount, by } }: Project['loading']): string {
  const unit = by === 'rows' ? 'row' : 'screen'
  return `${amount} ${unit}${amount === 1 ? '' : 's'}`
}

/** What a policy means in an app, setting by setting. */
export const instructions: readonly Instruction[] = [
  {
    path: '/loading/setup',
    place: 'start-up',
    say: ({ setup }) =>
      ({
        'app-start': 'Make the loader once, when the app starts, and hand it to every screen.',
        'first-use': 'Create the loader once, when the first picture is requested.',
        'per-screen': 'Make a loader for each screen that opens.',
        'per-bind': 'Make a loader at each bind.',
      })[setup],
  },
  {
    path: '/loading/fetchSlots',
    place: 'start-up',
    say: ({ fetchSlots }) => `Allow the loader ${fetchSlots} downloads at once, over all hosts.`,
  },
  {
    path: '/loading/fetchSlotsPerHost',
    place: 'start-up',
    say: ({ fetchSlotsPerHost }) => `Allow it ${fetchSlotsPerHost} downloads at once to one host.`,
  },
  {
    path: '/loading/decodeOn',
    place: 'start-up',
    say: ({ decodeOn }) =>
      decodeOn === 'workers'
        ? 'Decode pictures on background threads, never on the main thread.'
        : 'Decode pictures on the main thread.',
  },
  {
    path: '/loading/decodeWorkers',
    place: 'start-up',
    say: ({ decodeWorkers }) =>
      `Decode on ${decodeWorkers} background thread${decodeWorkers === 1 ? '' : 's'} at once.`,
  },
  {
    path: '/loading/memoryMb',
    place: 'start-up',
    say: ({ memoryMb }) =>
      memoryMb === 0
        ? 'Keep no decoded pictures beyond those on screen.'
        : `Keep decoded pictures in memory up to ${memoryMb} MB; drop those that were used longest ago.`,
  },
  {
    path: '/loading/diskMb',
    place: 'start-up',
    say: ({ diskMb }) =>
      diskMb === 0
        ? 'Keep no downloaded pictures on disk.'
        : `Keep downloaded pictures on disk up to ${diskMb} MB, and let Cache-Control say how long each is fresh.`,
  },
  {
    path: '/loading/timeoutMs',
    place: 'start-up',
    say: ({ timeoutMs }) => `Give up a download when no byte has arrived for ${timeoutMs} ms.`,
  },
  {
    path: '/loading/retry/attempts',
    place: 'start-up',
    say: ({ retry }) =>
      retry.attempts === 0
        ? 'Try a failed download only once.'
        : `Try again up to ${retry.attempts} times where that can help (no network, a time-out, status 408, 429 or 5xx): first after ${retry.firstMs} ms, then ${retry.factor} times as long each time, give or take ${Math.round(100 * retry.jitter)} %. Wait as long as Retry-After says.`,
  },
  {
    path: '/loading/order',
    place: 'list set-up',
    say: ({ order }) =>
      ({
        nearest:
          'Start waiting pictures by how near their cell is to the middle of the screen; before the first scroll from the top.',
        'first-come': 'Start waiting pictures in the order in which they were requested.',
        'last-come': 'Start the most recently requested picture first.',
      })[order],
  },
  {
    path: '/loading/ahead/amount',
    place: 'list set-up',
    say: (loading) =>
      loading.ahead.amount === 0
        ? 'Ask for nothing before its cell comes on screen.'
        : `Ask for the pictures of the next ${rowsOf(loading)}${loading.ahead.direction === 'both' ? ', in both directions' : ' in the direction in which the list moves'}${loading.ahead.onlyWhenIdle ? ', and start them only while nothing on screen waits' : ''}.`,
  },
  {
    path: '/loading/agingMs',
    place: 'list set-up',
    say: ({ agingMs }) =>
      `Move a picture that has waited ${agingMs} ms up one class of priority, so that nothing starves.`,
  },
  {
    path: '/loading/guard',
    place: 'bind',
    say: ({ guard }) =>
      guard
        ? 'Before a picture is shown, check that its cell is still bound to the item that requested it.'
        : 'Show a picture in the cell that requested it, whatever that cell shows by now.',
  },
  {
    path: '/loading/resetOnBind',
    place: 'bind',
    say: ({ resetOnBind }) =>
      resetOnBind
        ? 'Put the cell back to its placeholder first; keep the picture if its address has not changed.'
        : 'Leave the former picture in the cell until the new one is there.',
  },
  {
    path: '/loading/share',
    place: 'bind',
    say: ({ share }) =>
      share
        ? 'If the same address is already on its way, wait for that download instead of starting another.'
        : 'Start a download of its own for each cell.',
  },
  {
    path: '/loading/standIn',
    place: 'bind',
    say: ({ standIn }) =>
      standIn
        ? 'If the picture is in memory at another size, show that one until the right one is there.'
        : 'Show the placeholder until the picture is there at the right size.',
  },
  {
    path: '/loading/cancel/when',
    place: 'recycle',
    say: ({ cancel }) =>
      ({
        recycle: 'Cancel the download of a cell when the cell is recycled.',
        zone: `Cancel a download when its row is more than ${cancel.zoneRows} rows from the screen.`,
        never: 'Let every download run to the end.',
      })[cancel.when],
  },
  {
    path: '/loading/cancel/keepAbove',
    place: 'recycle',
    say: ({ cancel }) =>
      cancel.keepAbove >= 1
        ? 'Cut it off however much of it has arrived.'
        : `Finish it instead when ${Math.round(100 * cancel.keepAbove)} % of it or more has arrived, and keep it.`,
  },
  {
    path: '/loading/startBelowDpPerS',
    place: 'scroll',
    say: ({ startBelowDpPerS }) =>
      startBelowDpPerS === null
        ? 'Start downloads at any speed of the list.'
        : `Start nothing while the list moves faster than ${startBelowDpPerS} dp/s.`,
  },
  {
    path: '/loading/cancel/whenPaused',
    place: 'pause and return',
    say: ({ cancel }) => suspendText(cancel.whenPaused, 'the app goes into the background'),
  },
  {
    path: '/loading/cancel/whenLeft',
    place: 'leave',
    say: ({ cancel }) => suspendText(cancel.whenLeft, 'the screen is left'),
  },
  {
    path: '/loading/memoryMb',
    place: 'memory pressure',
    say: ({ memoryMb, diskMb }) =>
      memoryMb === 0
        ? 'Nothing to do: only pictures that cells show are kept in memory.'
        : `Drop every decoded picture that no cell shows; ${diskMb > 0 ? 'the disk still has them' : 'they are downloaded again when they are needed'}.`,
  },
]

function suspendText(what: 'carry-on' | 'finish-running' | 'let-go', when: string): string {
  return {
    'carry-on': `Let downloads go on when ${when}.`,
    'finish-running': `When ${when}, finish what is under way and start nothing more.`,
    'let-go': `Cancel everything when ${when}.`,
  }[what]
}

/** The policy as the steps that code takes, in plain words. */
export function stepsOf({ loading }: Project): { at: string; steps: string[] }[] {
  const { cancel, guard, resetOnBind, share, order, ahead, startBelowDpPerS, fetchSlots } = loading
  const keep =
    cancel.keepAbove < 1
      ? [
          `if ${Math.round(100 * cancel.keepAbove)} % or more of it has arrived: let it finish, and keep it`,
          'else: cut it off',
        ]
      : ['cut it off']
  const ranks = {
    nearest: 'the one whose cell is nearest to the middle of the screen',
    'first-come': 'the one that has waited longest',
    'last-come': 'the one that was requested last',
  }
  return [
    {
      at: 'when a cell is bound to an item',
      steps: [
        ...(resetOnBind ? ['if the address is another than before: show the placeholder'] : []),
        'if the picture is in memory: show it now, and stop here',
        ...(share ? ['if the address is on its way already: wait for that download too'] : []),
        'else: put a request into the line, in the class “on screen”',
      ],
    },
    {
      at: 'when a cell is recycled',
      steps:
        cancel.when === 'never'
          ? ['nothing: the download continues to its end']
          : [
              'take the cell off its request',
              'if nothing waits for that request any more:',
              ...(cancel.when === 'zone'
                ? [`  and its row is more than ${cancel.zoneRows} rows from the screen:`]
                : []),
              ...keep.map((step) => `  ${step}`),
            ],
    },
    {
      at: `when fewer than ${fetchSlots} downloads are under way`,
      steps: [
        ...(startBelowDpPerS === null ? [] : [`if the list moves faster than ${startBelowDpPerS} dp/s: start nothing`]),
        'take the class with the highest priority that has a request waiting: on screen, coming up, else',
        ...(ahead.onlyWhenIdle ? ['if it is “coming up” and something on screen waits: start nothing'] : []),
        `of that class start ${ranks[order]}`,
      ],
    },
    {
      at: 'when a picture is there',
      steps: [
        loading.decodeOn === 'workers'
          ? 'decode it on a background thread, at the size of its slot'
          : 'decode it on the main thread',
        ...(guard
          ? ['for each cell that waits for it: if the cell is still bound to that item, show it']
          : ['show it in each cell that requested it']),
        ...(loading.memoryMb > 0 ? ['keep it in memory'] : []),
      ],
    },
    {
      at: 'when memory is short',
      steps: ['drop every decoded picture that no cell shows', 'let what is under way go on'],
    },
  ]
}
