import type { Operation } from 'fast-json-patch'
import { replace, kB, metric, slotsOf, lateBy, fadedFromMemory, type Rule } from './suspicion.ts'

/** Faults of the pictures on screen: their px, their coming and going, their frames. */
export const pictureRules: readonly Rule[] = [
  function oversize(subject) {
    const ratio = metric(subject, 'decode.pixelRatio')
    const whole = slotsOf(subject).filter(({ slot }) => slot.decodeAt.type !== 'slot')
    if (ratio < 1.5 || whole.length === 0) return null
    return {
      id: 'decode-oversize',
      what: 'Pictures are decoded larger than they are shown.',
      metric: 'memory.peakMb',
      pinMs: null,
      evidence: `${ratio.toFixed(1)} px are decoded for each px shown, ${Math.round(metric(subject, 'decode.ms'))} ms in all; memory peaks at ${Math.round(metric(subject, 'memory.peakMb'))} MB.`,
      change: 'decode at the slot’s size',
      patch: whole.map(({ path }) => replace(`${path}/decodeAt`, { type: 'slot' })),
    }
  },
  function soft(subject) {
    const count = metric(subject, 'pictures.soft')
    const fixed = slotsOf(subject).filter(({ slot }) => slot.decodeAt.type === 'fixed')
    if (count < 2 || fixed.length === 0) return null
    return {
      id: 'soft',
      what: 'Pictures are shown with fewer px than their slot has.',
      metric: 'pictures.soft',
      pinMs: null,
      evidence: `${count} pictures were stretched; the median is shown with ${(metric(subject, 'pictures.softRatio') || 1).toFixed(1)} times the px that it has.`,
      change: 'decode at the slot’s size',
      patch: fixed.map(({ path }) => replace(`${path}/decodeAt`, { type: 'slot' })),
    }
  },
  function requestsWholePictures(subject) {
    const over = metric(subject, 'bytes.oversize')
    const unsizedSlots = slotsOf(subject).flatMap(({ slot, path }) =>
      slot.address.type === 'pointer' ? [{ path, at: slot.address.at }] : [],
    )
    const own =
      subject.screen.feed.source.type === 'origin' || subject.screen.feed.base?.includes('archive.example.test')
    if (over < 0.3 * metric(subject, 'bytes.received') || unsizedSlots.length === 0 || !own) return null
    return {
      id: 'ask-smaller',
      what: 'Whole pictures are fetched for small slots.',
      metric: 'bytes.received',
      pinMs: null,
      evidence: `${kB(over)} of ${kB(metric(subject, 'bytes.received'))} carry px that no slot shows.`,
      change: 'ask for the slot’s size',
      patch: unsizedSlots.map(({ path, at }) =>
        replace(`${path}/address`, {
          type: 'template',
          template: `{+${at.slice(1).replaceAll('/', '.')}}?width={widthPx}&height={heightPx}&as=webp`,
        }),
      ),
    }
  },
  function flicker(subject) {
    const count = metric(subject, 'pictures.flickers')
    const { memoryMb } = subject.project.loading
    if (count === 0) return null
    const faded = fadedFromMemory(subject)
    const more = Math.max(32, memoryMb * 4)
    return {
      id: 'flicker',
      what: 'Pictures that were there go away and come back.',
      metric: 'pictures.flickers',
      pinMs: subject.facts.flickers[0]! / 1000,
      evidence: `${count} times a shown picture went back to waiting, or faded in once more, under the same item.`,
      change: `${faded.length > 0 ? 'no transition for what memory has, and ' : ''}${more} MB of memory`,
      patch: [
        ...faded.map(({ path, slot }) => replace(`${path}/transition/skip`, [...slot.transition.skip, 'memory'])),
        replace('/loading/memoryMb', more),
      ],
    }
  },
  function transitionOnHit(subject) {
    const faded = fadedFromMemory(subject).filter(({ slot }) => slot.transition.on === 'main')
    const hits = subject.facts.claims.filter((claim) => claim.tier === 'memory').length
    const late = lateBy(subject, 'transition')
    if (faded.length === 0 || hits < 5 || late.frames === 0) return null
    return {
      id: 'transition-on-hit',
      what: 'Pictures that memory has are faded in all the same.',
      metric: 'frames.lateMsPerS',
      pinMs: late.first,
      evidence: `${hits} pictures came from memory; ${late.frames} late frames carried ${Math.round(late.ms)} ms of transitions.`,
      change: 'no transition for what memory has',
      patch: faded.map(({ path, slot }) => replace(`${path}/transition/skip`, [...slot.transition.skip, 'memory'])),
    }
  },
  function jumps(subject) {
    const count = metric(subject, 'pictures.jumps')
    if (count === 0) return null
    const framed = slotsOf(subject).flatMap(({ slot, path }) =>
      Object.entries(slot.stages).flatMap(([stage, look]): Operation[] =>
        typeof look === 'object' && look !== null && 'frame' in look && look.frame !== undefined
          ? [{ op: 'remove', path: `${path}/stages/${stage}/frame` }]
          : [],
      ),
    )
    const sized = slotsOf(subject).flatMap(({ slot, path }) =>
      slot.size.type === 'from-picture' && slot.widthAt !== null && slot.heightAt !== null
        ? [replace(`${path}/size`, { type: 'aspect-at', width: slot.widthAt, height: slot.heightAt })]
        : [],
    )
    if (framed.length + sized.length === 0) return null
    return {
      id: 'jumps',
      what: 'What is on screen moves when pictures arrive.',
      metric: 'pictures.jumps',
      pinMs: subject.facts.jumps[0]!.t / 1000,
      evidence: `${count} jumps by ${Math.round(metric(subject, 'pictures.jumpDp'))} dp in all.`,
      change: framed.length > 0 ? 'hold the slot’s frame in every stage' : 'take the ratio from the item',
      patch: [...framed, ...sized],
    }
  },
  function wrong(subject) {
    const { guard, resetOnBind } = subject.project.loading
    const count = metric(subject, 'pictures.wrong')
    if (count === 0 || (guard && resetOnBind)) return null
    return {
      id: 'wrong-pictures',
      what: 'Cells show pictures of other items.',
      metric: 'pictures.wrong',
      pinMs: subject.facts.wrongs[0] ? subject.facts.wrongs[0].t / 1000 : null,
      evidence: `${count} times, for ${Math.round(metric(subject, 'pictures.wrongMs'))} ms in all.`,
      change: 'guard late arrivals and reset cells on bind',
      patch: [replace('/loading/guard', true), replace('/loading/resetOnBind', true)],
    }
  },
]
