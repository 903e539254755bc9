/**
 * More metrics from NDJSON lines with plain loops: threads, cells, tiers, memory, disk, decoding and how requests
 * ended. Written from metrics.md; shares no code with the product.
 */
type Line = Record<string, number> & { event: string; t: number; why: string; tier: string; cause: string }

export function bruteForceRest(lines: readonly string[]): Record<string, number | null> {
  const rows = lines.map((line) => JSON.parse(line) as Line & { table: string })
  const head = rows[0] as unknown as {
    refreshHz: number
    diskStartBytes: number
    policy: { fetchSlots: number; decodeWorkers: number }
  }
  const events = rows.filter((row) => row.event !== undefined)
  const of = (name: string) => events.filter((event) => event.event === name)
  const end = events.at(-1)!.t
  const total = (list: readonly number[]) => list.reduce((sum, each) => sum + each, 0)
  const share = (part: number, whole: number) => (whole === 0 ? null : part / whole)
  const work = (cause: string) =>
    total(
      of('work')
        .filter((event) => event.cause === cause)
        .map(({ ms }) => ms!),
    )

  const decodes = of('decodeEnd')

  // Transfers: from their start until their slot is free.
  const spans = of('start').map((start) => {
    const over = events.find(
      (event) => ['received', 'cut', 'cancel', 'fail'].includes(event.event) && event.transfer === start.transfer,
    )
    return {
      from: start.t,
      to: over?.t ?? end,
      begun: events.indexOf(start),
      over: over ? events.indexOf(over) : Infinity,
    }
  })
  const bytesOf = (request: number) =>
    total(
      of('start')
        .filter((start) => start.request === request)
        .map(
          ({ transfer }) =>
            of('received').find((event) => event.transfer === transfer)?.bytes ??
            [...of('cancel'), ...of('fail')].find((event) => event.transfer === transfer)?.bytes ??
            0,
        ),
    )
  // What was read from disk before it was let go came from disk.
  const cancelled = of('cancel').filter(
    ({ request }) =>
      bytesOf(request!) === 0 &&
      !of('diskRead').some(
        (read) => read.request === request && !of('start').some((start) => start.request === request),
      ),
  )
  const freeMs = total(
    cancelled.map(({ request, t }) => {
      const last = of('start').findLast((start) => start.request === request)
      return last
        ? ([...of('fail'), ...of('received')].find((event) => event.transfer === last.transfer)?.t ?? t) - last.t
        : 0
    }),
  )

  const memory = of('memory')
  const kB = (line: Line | undefined) => (line ? line.resident! / 1000 : null)
  const collects = of('collect')
  const asked = collects.findLast((event) => event.asked === 1)
  const relief = of('relief').at(-1)
  let disk = head.diskStartBytes
  let most = disk
  for (const event of events)
    if (event.event === 'diskWrite' || event.event === 'diskEvict')
      most = Math.max(most, (disk += event.event === 'diskWrite' ? event.bytes! : -event.bytes!))
  const delivered = of('deliver')
  const from = (tier: string) => share(delivered.filter((event) => event.tier === tier).length, delivered.length)
  const [creates, binds, entered] = [of('create'), of('bind'), of('enter')]
  const lastMade = creates.filter(({ t }) => t === creates.at(-1)?.t).at(-1)
  const late = of('frame').map(({ presented, due }) => presented! - due!)
  return {
    'frames.stalled': late.filter((ms) => ms > 500 + 1e-6).length,
    'pictures.jumpDp': total(of('jump').map(({ dp }) => Math.abs(dp!))),
    'bytes.inFlight': total(of('cancel').map(({ inFlight }) => inFlight!)),
    'requests.cancelledFree': cancelled.length,
    'requests.cancelledFreeMs': freeMs,
    'requests.peakActive': Math.max(
      0,
      ...spans.map(({ begun }) => spans.filter((each) => each.begun <= begun && each.over > begun).length),
    ),
    'threads.mainBusyShare': share(total(of('work').map(({ ms }) => ms!)), end),
    'threads.decodeBusyShare': share(total(decodes.map(({ ms }) => ms!)), end * head.policy.decodeWorkers),
    'threads.fetchBusyShare': share(total(spans.map(({ from: at, to }) => to - at)), end * head.policy.fetchSlots),
    'cells.reuse': share(binds.length - creates.length, binds.length),
    'cells.createMs': work('create'),
    'cells.bindMs': work('bind'),
    'cells.lastCreateRow': lastMade ? binds.find(({ cell }) => cell === lastMade.cell)!.row! : null,
    'cells.createdAfterFirstScreen': creates.filter(({ t }) => t >= (entered[0]?.t ?? Infinity)).length,
    'tier.diskShare': from('disk'),
    'tier.networkShare': from('network'),
    'tier.localShare': from('local'),
    'tier.evictedThenWanted': of('claim').filter(
      (claim) =>
        of('evict').some(({ rendition, t }) => rendition === claim.rendition && t <= claim.t) &&
        delivered.find((event) => event.claim === claim.id)?.tier !== 'memory',
    ).length,
    'memory.startMb': kB(memory[0]),
    'memory.endMb': kB(memory.at(-1)),
    'memory.afterCollectMb': asked ? kB(memory.find(({ t }) => t >= asked.t)) : null,
    'memory.afterReliefMb': relief ? kB(memory.find(({ t }) => t >= relief.t)) : null,
    'memory.collections': collects.length,
    'memory.pauseMs': total(collects.map(({ ms }) => ms!)),
    'memory.ended': of('end')[0]!.why === 'heap' ? 1 : 0,
    'disk.startMb': head.diskStartBytes / 1e6,
    'disk.peakMb': most / 1e6,
    'disk.endMb': disk / 1e6,
    'disk.writtenMb': total(of('diskWrite').map(({ bytes }) => bytes!)) / 1e6,
  }
}
