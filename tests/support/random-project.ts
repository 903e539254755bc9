import fc from 'fast-check'
import { parseProject } from '../../src/core/project/parse.ts'
import type { Project, Visit } from '../../src/core/project/types.ts'
import { projectOf } from './projects.ts'

const step = fc.oneof(
  { weight: 3, arbitrary: fc.record({ do: fc.constant('wait'), ms: fc.integer({ min: 0, max: 900 }) }) },
  { weight: 3, arbitrary: fc.record({ do: fc.constant('flick'), dpPerS: fc.integer({ min: -12_000, max: 12_000 }) }) },
  {
    weight: 2,
    arbitrary: fc.record({
      do: fc.constant('drag'),
      dp: fc.integer({ min: -1500, max: 2500 }),
      ms: fc.integer({ min: 0, max: 700 }),
    }),
  },
  fc.record({ do: fc.constant('jump'), row: fc.integer({ min: 0, max: 200 }) }),
  fc.record({
    do: fc.constant('to'),
    where: fc.constantFrom('start', 'end', 30),
    dpPerS: fc.integer({ min: 500, max: 20_000 }),
  }),
  fc.constantFrom(
    { do: 'pressure' },
    { do: 'collect' },
    { do: 'rotate' },
    { do: 'load', address: 'https://a.example.test/4.jpg', px: 64 },
  ),
)

const scopeSteps = fc.constantFrom(
  [],
  [{ do: 'leave' }, { do: 'wait', ms: 300 }, { do: 'return' }, { do: 'wait', ms: 400 }],
  [{ do: 'open', screen: 'detail', item: 7 }, { do: 'wait', ms: 400 }, { do: 'back' }, { do: 'wait', ms: 300 }],
  [{ do: 'background' }, { do: 'wait', ms: 300 }, { do: 'foreground' }, { do: 'wait', ms: 200 }],
  [{ do: 'offline' }, { do: 'wait', ms: 300 }, { do: 'online' }, { do: 'wait', ms: 300 }],
)

const fault = fc.record({
  match: fc.constantFrom('*', '*/1?.jpg', '*7*'),
  kind: fc.constantFrom(
    'status',
    'timeout',
    'stall',
    'truncate',
    'wrong-type',
    'broken',
    'huge',
    'empty',
    'redirect-loop',
    'drip',
  ),
  status: fc.constantFrom(401, 404, 429, 500, 503),
  rate: fc.constantFrom(0.2, 0.6, 1),
  times: fc.constantFrom(null, 1, 3),
  afterBytes: fc.integer({ min: 0, max: 30_000 }),
})

const loading = fc.record({
  fetchSlots: fc.integer({ min: 1, max: 10 }),
  fetchSlotsPerHost: fc.integer({ min: 1, max: 8 }),
  order: fc.constantFrom('nearest', 'first-come', 'last-come'),
  agingMs: fc.constantFrom(200, 3000),
  decodeWorkers: fc.integer({ min: 1, max: 3 }),
  decodeOn: fc.constantFrom('workers', 'main'),
  guard: fc.boolean(),
  resetOnBind: fc.boolean(),
  share: fc.boolean(),
  setup: fc.constantFrom('app-start', 'first-use', 'per-screen', 'per-bind'),
  cancel: fc.record({
    when: fc.constantFrom('recycle', 'zone', 'never'),
    zoneRows: fc.integer({ min: 0, max: 8 }),
    keepAbove: fc.constantFrom(0, 0.3, 0.8, 1),
    whenPaused: fc.constantFrom('carry-on', 'finish-running', 'let-go'),
    whenLeft: fc.constantFrom('carry-on', 'finish-running', 'let-go'),
  }),
  memoryMb: fc.constantFrom(0, 0.4, 3, 32),
  diskMb: fc.constantFrom(0, 0.2, 50),
  ahead: fc.record({
    by: fc.constantFrom('rows', 'screens'),
    amount: fc.constantFrom(0, 1, 2, 6),
    direction: fc.constantFrom('travel', 'both'),
    onlyWhenIdle: fc.boolean(),
  }),
  startBelowDpPerS: fc.constantFrom(null, 500, 4000),
  timeoutMs: fc.constantFrom(400, 3000),
  headers: fc.constantFrom([], [{ host: 'a.example.test', name: 'Authorization', secret: 'a', lastsS: 0.6 }]),
})

const network = fc.record({
  rttMs: fc.integer({ min: 0, max: 250 }),
  jitterMs: fc.integer({ min: 0, max: 60 }),
  downKbps: fc.constantFrom(200, 1500, 8000, 100_000),
  protocol: fc.constantFrom('h1', 'h2'),
  connectionsPerHost: fc.integer({ min: 1, max: 6 }),
  setupRtts: fc.integer({ min: 0, max: 3 }),
  slowStart: fc.boolean(),
  thinkMs: fc.integer({ min: 0, max: 50 }),
  faults: fc.oneof(
    { weight: 2, arbitrary: fc.constant([]) },
    { weight: 1, arbitrary: fc.array(fault, { minLength: 1, maxLength: 2 }) },
  ),
  offline: fc.constantFrom([], [{ fromMs: 300, toMs: 700 }]),
})

const edit = fc.record({
  do: fc.constant('edit'),
  op: fc.constantFrom('insert', 'remove', 'move', 'update', 'refresh'),
  at: fc.integer({ min: 0, max: 40 }),
  count: fc.integer({ min: 1, max: 6 }),
  to: fc.integer({ min: 0, max: 40 }),
})

/** A random policy, script, network and list, as a project. Pictures come from two hosts; some addresses are wrong. */
export const anyProject = fc
  .record({
    loading,
    network,
    steps: fc.array(step, { minLength: 1, maxLength: 7 }),
    scopes: scopeSteps,
    edits: fc.array(edit, { maxLength: 2 }),
    columns: fc.integer({ min: 1, max: 4 }),
    count: fc.integer({ min: 0, max: 150 }),
    held: fc.constantFrom(0, 3, 12),
    before: fc.constantFrom(0, 150),
    after: fc.constantFrom(0, 300),
    seed: fc.integer({ min: 0, max: 1_000_000 }),
    size: fc.constantFrom(
      { type: 'fixed', widthDp: 90, heightDp: 90 },
      { type: 'aspect', ratio: 1.5 },
      { type: 'aspect-at', width: '/width', height: '/height' },
      { type: 'from-picture' },
    ),
    stages: fc.constantFrom(
      {},
      {},
      { waiting: { frame: { widthDp: 90, heightDp: 40 } } },
      {
        absent: { frame: { widthDp: 90, heightDp: 0 } },
        failed: { frame: { widthDp: 20, heightDp: 130 }, fallbacks: ['https://c.example.test/spare.jpg'] },
        arriving: { frame: { widthDp: 90, heightDp: 70 } },
      },
    ),
    transition: fc.constantFrom(
      { type: 'none' },
      { type: 'fade', ms: 150 },
      { type: 'fade-grow', ms: 300, on: 'main' },
    ),
    decodeAt: fc.constantFrom({ type: 'slot' }, { type: 'original' }, { type: 'fixed', px: 64 }),
  })
  .map((parts) =>
    projectOf({
      seed: parts.seed,
      items: Array.from({ length: parts.count }, (_, i) => ({
        id: `i${i}`,
        width: 200 + ((i * 37) % 300),
        height: 150 + ((i * 61) % 300),
        bytes: 3000 + ((i * 7919) % 60_000),
        ...(i % 23 === 11
          ? {}
          : {
              photo:
                i % 29 === 5
                  ? 'http://[broken'
                  : `https://${i % 3 ? 'a' : 'b'}.example.test/${i % 17 === 3 ? i - 1 : i}.jpg`,
            }),
      })),
      screen: {
        layout: {
          columns: parts.columns,
          gapDp: 3,
          paddingDp: 5,
          beforeDp: parts.before,
          afterDp: parts.after,
          heldCells: parts.held,
        },
      },
      loading: parts.loading,
      network: parts.network,
      device: { widthDp: 400, heightDp: 700, density: 2 },
      steps: [...parts.steps, ...parts.scopes, ...parts.edits, { do: 'wait', ms: 300 }],
      height: { type: 'content' },
      slot: { size: parts.size, stages: parts.stages, transition: parts.transition, decodeAt: parts.decodeAt },
    }),
  )

/**
 * What a visit can have in addition: other sources of items, more pictures in a cell, settings of tiers, grants and
 * retries.
 */
const beside = fc.record({
  visit: fc.constantFrom<Visit>('first', 'first', 'restarted', 'again'),
  feed: fc.constantFrom('own', 'own', 'repeated', 'pages', 'kinds'),
  second: fc.constantFrom(null, { priority: 'high' }, { priority: 'low', decodeAt: { type: 'original' } }),
  first: fc.constantFrom('low', 'normal', 'high'),
  standIn: fc.boolean(),
  retry: fc.record({
    attempts: fc.integer({ min: 0, max: 4 }),
    firstMs: fc.constantFrom(0, 80, 500),
    factor: fc.constantFrom(1, 2),
    jitter: fc.constantFrom(0, 0.5),
  }),
  diskFreshness: fc.constantFrom({ type: 'headers' }, { type: 'age', s: 1 }, { type: 'count', n: 1 }),
  lists: fc.constantFrom([], ['detail']),
  granted: fc.constantFrom({}, {}, {}, { network: false }, { storage: false }),
  heapMb: fc.constantFrom(256, 256, 40),
  retryAfterS: fc.constantFrom(null, 0.2),
  entrance: fc.constantFrom({ type: 'none' }, { type: 'fade', ms: 120 }),
  media: fc.constantFrom(
    { type: 'still' },
    { type: 'animated', play: 'on-screen' },
    { type: 'animated', play: 'always' },
  ),
  /** Whether a small picture comes first, where an item has one. */
  smallFirst: fc.constantFrom(false, false, true),
})

const detail = {
  id: 'detail',
  feed: {
    source: {
      type: 'inline',
      items: Array.from({ length: 9 }, (_, i) => ({
        id: i,
        photo: `https://b.example.test/${40 + i}.jpg`,
        width: 300,
        height: 200,
        bytes: 9000,
      })),
    },
  },
  cells: [{ slots: [{}] }],
}

/** A random project as from `anyProject`, with more of what engine.md covers; and which of its visits is examined. */
export const anyVisit = fc.tuple(anyProject, beside).map(([project, more]): { project: Project; visit: Visit } => {
  const [screen] = project.screens
  const [cell] = screen!.cells
  const [slot] = cell!.slots
  const source = screen!.feed.source
  const items = (source.type === 'inline' ? source.items : []).map((item, i) =>
    more.smallFirst && i % 7 > 0 ? { ...item, small: `https://c.example.test/small-${i}.jpg` } : item,
  )
  const own = { ...screen!.feed, source: { type: 'inline', items } }
  const feed = {
    own,
    repeated: { ...own, repeat: { times: 3, addresses: 'distinct' } },
    pages: {
      ...screen!.feed,
      source: { type: 'origin', feed: 'kiln-log' },
      base: 'https://archive.example.test/',
      pageAheadRows: 6,
    },
    kinds: {
      ...screen!.feed,
      kind: '/kind',
      source: {
        type: 'inline',
        items: items.map((item, i) => ({ ...item, kind: ['a', 'b', 'strange'][i % 5 === 4 ? 2 : i % 2] })),
      },
    },
  }[more.feed]
  const address = {
    type: 'sizes',
    choices: [{ at: '/photo' }, { at: '/small', widthPx: 40 }],
    smallFirst: true,
  }
  const slots = [
    { ...slot, priority: more.first, media: more.media, ...(more.smallFirst && more.feed !== 'pages' && { address }) },
    ...(more.second === null
      ? []
      : [{ ...slot, ...more.second, id: 'second', size: { type: 'fixed', widthDp: 40, heightDp: 40 } }]),
  ]
  const cells =
    more.feed === 'kinds'
      ? [
          { ...cell, kind: 'a', slots },
          { ...cell, kind: 'b', slots: [{ ...slot, size: { type: 'aspect', ratio: 2 } }] },
        ]
      : [{ ...cell, slots }]
  const outcome = parseProject({
    ...project,
    screens: [{ ...screen, feed, cells, layout: { ...screen!.layout, entrance: more.entrance } }, detail],
    loading: {
      ...project.loading,
      standIn: more.standIn,
      retry: more.retry,
      diskFreshness: more.diskFreshness,
      ahead: { ...project.loading.ahead, lists: more.lists },
    },
    network: {
      ...project.network,
      faults: project.network.faults.map((fault) => ({ ...fault, retryAfterS: more.retryAfterS })),
    },
    device: { ...project.device, heapMb: more.heapMb, granted: more.granted },
  })
  if (!outcome.ok) throw new Error(outcome.message)
  return { project: outcome.project, visit: more.visit }
})
