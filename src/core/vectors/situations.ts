import { draw } from '../numbers/draw.ts'
import type { Clause, VectorCase, VectorPolicy, VectorStep } from './protocol.ts'

/** A case before its answers are known. */
export type Situation = Omit<VectorCase, 'expect'>

const picture = (n: number) => `https://pictures.example.test/${n}.webp`
const bind = (at: number, cell: number, n: number, rank = 0, distance = 100 * (n + 1)): VectorStep => ({
  at,
  do: 'bind',
  cell,
  address: picture(n),
  class: rank,
  distance,
})
const recycle = (at: number, cell: number): VectorStep => ({ at, do: 'recycle', cell })
const received = (at: number, n: number): VectorStep => ({ at, do: 'received', address: picture(n), bytes: 1000 })
const decoded = (at: number, n: number): VectorStep => ({ at, do: 'decoded', address: picture(n) })
const progress = (at: number, n: number, bytes: number): VectorStep => ({
  at,
  do: 'progress',
  address: picture(n),
  bytes,
})
const responded = (at: number, n: number): VectorStep => ({ at, do: 'responded', address: picture(n), total: 1000 })
const failed = (at: number, n: number, more: Partial<VectorStep>): VectorStep => ({
  at,
  do: 'failed',
  address: picture(n),
  ...more,
})
const tick = (at: number): VectorStep => ({ at, do: 'tick' })

/** One slot, and nothing let go by itself: a case switches off what it is not about. */
const one = { fetchSlots: 1 }

/** Small situations, each with what it is about; smallest first. */
export function scripted({ fetchSlots, agingMs, retry }: VectorPolicy): Situation[] {
  const first = Math.ceil(retry.firstMs)
  const many = Array.from({ length: fetchSlots + 2 }, (_, n) => bind(n, n, n))
  return [
    of('slots', 'as-many-as-slots', 'As many start as there are slots; the others wait until one is free.', [
      ...many,
      received(100, 0),
      received(110, 1),
    ]),
    of(
      'slots',
      'failure-frees',
      'A transfer that fails for good gives its slot back.',
      [bind(0, 0, 0), bind(1, 1, 1), failed(50, 0, { reason: 'not-a-picture' }), received(90, 1)],
      one,
    ),
    of(
      'slots',
      'cut-frees',
      'A transfer that is cut gives its slot back.',
      [bind(0, 0, 0), bind(1, 1, 1), recycle(50, 0), received(90, 1)],
      { ...one, cancel: 'recycle', keepAbove: 1 },
    ),
    of(
      'slots',
      'decode-needs-none',
      'What is being decoded holds no slot.',
      [bind(0, 0, 0), bind(1, 1, 1), received(20, 0), decoded(60, 0)],
      one,
    ),
    of(
      'order',
      'next-in-line',
      'A free slot goes to the one that the order puts first.',
      [
        bind(0, 0, 0),
        bind(10, 1, 1, 0, 300),
        bind(20, 2, 2, 0, 100),
        bind(30, 3, 3, 0, 200),
        received(50, 0),
        received(60, 2),
      ],
      one,
    ),
    of(
      'order',
      'on-screen-first',
      'What is on screen goes before what only comes up, however near that is.',
      [bind(0, 0, 0), bind(10, 1, 1, 1, 10), bind(20, 2, 2, 0, 500), received(50, 0)],
      one,
    ),
    of(
      'order',
      'placed-anew',
      'Places are judged when a slot becomes free, not when they were requested.',
      [
        bind(0, 0, 0),
        bind(10, 1, 1, 1, 100),
        bind(20, 2, 2, 1, 200),
        { at: 30, do: 'place', cell: 2, class: 0, distance: 50 },
        received(50, 0),
      ],
      one,
    ),
    of(
      'order',
      'nothing-starves',
      'Waiting raises a request’s class, so that nothing waits forever.',
      [bind(0, 0, 0), bind(10, 1, 1, 3, 100), bind(20 + 3 * agingMs, 2, 2, 0, 500), received(30 + 3 * agingMs, 0)],
      { ...one, order: 'nearest' },
    ),
    of('share', 'one-for-two', 'Two cells that want one picture make one request, and both get it.', [
      bind(0, 0, 0),
      bind(1, 1, 0),
      received(40, 0),
      decoded(60, 0),
    ]),
    of(
      'share',
      'joins-what-runs',
      'A picture that is under way is joined, not requested again.',
      [bind(0, 0, 0), bind(10, 1, 1), recycle(20, 1), bind(30, 2, 0), received(60, 0), decoded(80, 0)],
      { cancel: 'never' },
    ),
    of('share', 'joins-while-decoding', 'One that is being decoded is joined too.', [
      bind(0, 0, 0),
      received(20, 0),
      bind(30, 1, 0),
      decoded(60, 0),
    ]),
    of('cancel', 'recycled', 'When the last cell that wanted it is recycled, the rule decides.', [
      bind(0, 0, 0),
      recycle(30, 0),
      tick(60),
    ]),
    of('cancel', 'somebody-still-wants-it', 'As long as a cell wants it, it runs.', [
      bind(0, 0, 0),
      bind(1, 1, 0),
      recycle(30, 0),
      received(60, 0),
      decoded(80, 0),
    ]),
    of(
      'cancel',
      'never-started',
      'What waits in line and is let go never starts.',
      [bind(0, 0, 0), bind(1, 1, 1), recycle(20, 1), received(40, 0), tick(80)],
      { ...one, cancel: 'recycle' },
    ),
    of(
      'keep',
      'far-enough',
      'Enough of it has come: it is finished.',
      [bind(0, 0, 0), responded(10, 0), progress(20, 0, 700), recycle(30, 0), received(60, 0)],
      { cancel: 'recycle', keepAbove: 0.6 },
    ),
    of(
      'keep',
      'not-far-enough',
      'Too little of it has come: it is cut off.',
      [bind(0, 0, 0), responded(10, 0), progress(20, 0, 300), recycle(30, 0), tick(60)],
      { cancel: 'recycle', keepAbove: 0.6 },
    ),
    of(
      'guard',
      'late-picture',
      'A late picture never shows in a cell that is another item’s now.',
      [bind(0, 0, 0), recycle(10, 0), bind(20, 0, 1), received(40, 0), decoded(50, 0), received(60, 1), decoded(70, 1)],
      { cancel: 'never' },
    ),
    of('guard', 'bound-while-decoding', 'Nor does one that was being decoded when its cell was bound again.', [
      bind(0, 0, 0),
      received(20, 0),
      bind(30, 0, 1),
      decoded(40, 0),
      received(60, 1),
      decoded(70, 1),
    ]),
    of('retry', 'after-a-while', 'A try that failed for the network is made again, not before its time.', [
      bind(0, 0, 0),
      failed(20, 0, { reason: 'timeout' }),
      tick(20 + Math.max(0, first - 5)),
      tick(25 + first),
      received(60 + first, 0),
    ]),
    of('retry', 'cannot-help', 'What is not there will not be there: 404 is not tried again.', [
      bind(0, 0, 0),
      failed(20, 0, { reason: 'status', status: 404 }),
      tick(20 + 20 * (first + 1)),
    ]),
    of('retry', 'as-the-server-says', 'Retry-After is waited for.', [
      bind(0, 0, 0),
      failed(20, 0, { reason: 'status', status: 503, retryAfterS: first / 1000 + 2 }),
      tick(30 + first),
      tick(2030 + first),
    ]),
    of(
      'retry',
      'no-longer-wanted',
      'Nobody wants it any more: it is not tried again.',
      [bind(0, 0, 0), recycle(10, 0), failed(20, 0, { reason: 'timeout' }), tick(30 + first)],
      { cancel: 'never' },
    ),
    of(
      'scope',
      'left',
      'While the screen is left, nothing of it starts; on return it continues.',
      [bind(0, 0, 0), bind(1, 1, 1), { at: 20, do: 'leave' }, received(40, 0), tick(60), { at: 80, do: 'return' }],
      { ...one, whenLeft: 'finish-running' },
    ),
    of(
      'scope',
      'let-go',
      'By this rule what runs is cut when the screen is left, and requested again on return.',
      [bind(0, 0, 0), { at: 20, do: 'leave' }, tick(40), { at: 60, do: 'return' }],
      { whenLeft: 'let-go' },
    ),
    of('scope', 'closed', 'Nothing is delivered to a screen that was closed.', [
      bind(0, 0, 0),
      received(20, 0),
      { at: 30, do: 'close' },
      decoded(40, 0),
    ]),
    of('memory', 'shown-before', 'A picture that was decoded before shows at once, and nothing is requested.', [
      bind(0, 0, 0),
      received(20, 0),
      decoded(40, 0),
      recycle(60, 0),
      bind(80, 1, 0),
    ]),
  ]
}

/**
 * Random situations for the clauses that a sequence of binds and ends can test. `runs` says what a loader with the
 * rules of a situation does: only transfers that it has started can arrive.
 */
export function random(
  count: number,
  seed: number,
  { fetchSlots }: VectorPolicy,
  open: (own: Partial<VectorPolicy>) => (step: VectorStep) => readonly object[],
): Situation[] {
  return Array.from({ length: count }, (_, n) => {
    const pick = (i: number) => draw(seed + n, 'gesture', i)
    const cells = 4 + Math.floor(pick(0) * 5)
    const clause: Clause = n % 2 === 0 ? 'order' : 'slots'
    const own = { fetchSlots: clause === 'order' ? 1 : Math.min(fetchSlots, 1 + Math.floor(pick(90) * 3)) }
    const runs = open(own)
    const steps: VectorStep[] = []
    const started: string[] = []
    const take = (step: VectorStep) => {
      steps.push(step)
      for (const output of runs(step)) if ('start' in output) started.push(output.start as string)
    }
    // Distances are all different: among equals the order is free.
    const places = Array.from({ length: cells }, (_, i) => i).sort((a, b) => pick(10 + a) - pick(10 + b))
    for (let i = 0; i < cells; i++)
      take(bind(i * 5, i, i, clause === 'order' ? Math.floor(pick(40 + i) * 3) : 0, 50 + 70 * places[i]!))
    for (let at = 200; started.length > 0; at += 20)
      take({ at, do: 'received', address: started.shift()!, bytes: 1000 })
    return of(
      clause,
      `random-${n + 1}`,
      clause === 'order'
        ? 'Some pictures come one after the other: each slot goes to the one that is first then.'
        : 'Never more at once than there are slots.',
      steps,
      own,
    )
  })
}

function of(clause: Clause, id: string, why: string, steps: VectorStep[], policy?: Partial<VectorPolicy>): Situation {
  return { id: `${clause}/${id}`, clause, why, ...(policy ? { policy } : {}), steps }
}
