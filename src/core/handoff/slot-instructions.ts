import type { Screen, Slot } from '../project/types.ts'
import type { Place } from './instructions.ts'

/** One thing that an app's code does for a picture slot because of a setting. */
export interface SlotInstruction {
  /** The setting, as a JSON Pointer into the slot. */
  setting: string
  place: Place
  label: string
  reason: string
  /** The value in a plain loader's cell. */
  plain: (slot: Slot) => unknown
  /** Whether a figure of a run can depend on it; else it was decided by hand. */
  isMeasured: boolean
  is: (slot: Slot) => unknown
  /** The value in a word or two. */
  format: (value: never) => string
  /** What to do, in plain words. */
  say: (slot: Slot) => string
}

type Visual = Slot['stages']['waiting']['visual']

const visualWords: { [Type in Visual['type']]: (visual: Extract<Visual, { type: Type }>) => string } = {
  space: () => 'nothing',
  colour: ({ colour }) => `the colour ${colour}`,
  'item-colour': ({ at }) => `the colour that the item gives at ${at}`,
  drawn: ({ shape }) => (shape === 'cracked-tile' ? 'a cracked tile' : 'the outline of a tile'),
  picture: ({ asset }) => `the packaged picture “${asset}”`,
  preview: ({ at, as }) =>
    as === 'data'
      ? `the small preview that the item gives at ${at}`
      : `what is drawn from the ${as} that the item gives at ${at}`,
  skeleton: () => 'a skeleton',
  ring: () => 'a ring that fills',
}
const visualWord = (visual: Visual) => visualWords[visual.type](visual as never)

function frameWord(size: Slot['size']): string {
  switch (size.type) {
    case 'fixed':
      return `${size.widthDp} × ${size.heightDp} dp`
    case 'fill':
      return 'the whole cell'
    case 'share':
      return `${Math.round(100 * size.of)} % of the cell’s width`
    case 'aspect':
      return `${size.ratio} : 1 of its width`
    case 'aspect-at':
      return `the shape that the item gives at ${size.width} and ${size.height}`
    case 'from-picture':
      return 'from the picture'
  }
}

function skipWord({ skip }: Slot['transition']): string {
  const words = {
    memory: 'it was in memory',
    flicking: 'the list is flicking',
    'reduced-motion': 'reduced motion is set',
  }
  return skip.length === 0 ? '' : `; show it at once when ${skip.map((each) => words[each]).join(', or ')}`
}

const cornersWord = (corners: Slot['cornersDp']) =>
  corners.every((each) => each === corners[0]) ? `${corners[0]} dp` : `${corners.join(', ')} dp`

/** A field of an item that holds the address itself: the first one that a rule uses. */
function fieldOf(address: Slot['address']): string {
  switch (address.type) {
    case 'pointer':
    case 'table':
      return address.at
    case 'template':
      return `/${/\{[+#./;?&]?([^,:*}]+)/.exec(address.template)?.[1]?.replaceAll('.', '/') ?? 'photo'}`
    case 'sizes':
      return address.choices[0]!.at
    case 'packaged':
      return '/photo'
  }
}

function addressWord(address: Slot['address']): string {
  switch (address.type) {
    case 'pointer':
      return `as the item gives it at ${address.at}`
    case 'template':
      return address.template
    case 'table':
      return `by a table, for what the item gives at ${address.at}`
    case 'sizes':
      return `the narrowest of ${address.choices.length} sizes that is as wide as the slot${address.smallFirst ? ', after the smallest' : ''}`
    case 'packaged':
      return `the packaged picture “${address.name}”`
  }
}

function askFor(address: Slot['address']): string {
  if (address.type === 'template')
    return `Ask for the address ${address.template}: a URI template (RFC 6570) over the item’s fields, with widthPx and heightPx as the slot’s size in px and density as that of the screen.`
  if (address.type === 'table')
    return `Look the address up for what the item gives at ${address.at}: ${Object.entries(address.table)
      .slice(0, 6)
      .map(([name, url]) => `${name} → ${url}`)
      .join(', ')}${Object.keys(address.table).length > 6 ? ', …' : ''}.`
  if (address.type === 'sizes')
    return `Ask for the narrowest address that is as wide as the slot in px, of those at ${address.choices.map(({ at }) => at).join(', ')}; where none is, the widest.${address.smallFirst ? ' Ask for the narrowest of all first, and for the other as soon as that is shown or has failed; leave the small one in its place until the other comes, and if it does not come.' : ''}`
  return `Use ${addressWord(address)}.`
}

const slotInstructions: readonly SlotInstruction[] = [
  {
    setting: '/address',
    place: 'bind',
    label: 'Address',
    reason: 'A picture of the size that is shown takes fewer bytes than the original.',
    plain: ({ address }) => ({ type: 'pointer', at: fieldOf(address) }),
    isMeasured: true,
    is: ({ address }) => address,
    format: addressWord,
    say: ({ address }) => askFor(address),
  },
  {
    setting: '/size',
    place: 'cell creation',
    label: 'Frame',
    reason: 'A frame that is known before its picture comes moves nothing when it does.',
    plain: () => ({ type: 'from-picture' }),
    isMeasured: true,
    is: ({ size }) => size,
    format: frameWord,
    say: ({ size }) => `Give it its frame when the cell is made: ${frameWord(size)}.`,
  },
  {
    setting: '/stages/waiting/visual',
    place: 'cell creation',
    label: 'While it waits',
    reason: 'What is shown until the picture arrives is seen at every flick.',
    plain: () => ({ type: 'space' }),
    isMeasured: false,
    is: ({ stages }) => stages.waiting.visual,
    format: visualWord,
    say: ({ stages }) => `Show ${visualWord(stages.waiting.visual)} until its picture comes.`,
  },
  {
    setting: '/stages/failed/visual',
    place: 'cell creation',
    label: 'When it failed',
    reason: 'A picture that is unavailable must not look like one that is still loading.',
    plain: () => ({ type: 'space' }),
    isMeasured: false,
    is: ({ stages }) => stages.failed.visual,
    format: visualWord,
    say: ({ stages: { failed } }) =>
      `Show ${visualWord(failed.visual)} when it could not be loaded${failed.retry ? ', and ask again when it is tapped' : ''}.`,
  },
  {
    setting: '/cornersDp',
    place: 'cell creation',
    label: 'Corners',
    reason: 'It is part of the look.',
    plain: () => [0, 0, 0, 0],
    isMeasured: false,
    is: ({ cornersDp, circle }) => (circle ? [0, 0, 0, 0] : cornersDp),
    format: cornersWord,
    say: ({ cornersDp, shapeAt }) =>
      `Round its corners by ${cornersWord(cornersDp)}, ${shapeAt === 'draw' ? 'by clipping at each draw' : 'once, when it is decoded'}.`,
  },
  {
    setting: '/circle',
    place: 'cell creation',
    label: 'Circle',
    reason: 'It is part of the look.',
    plain: () => false,
    isMeasured: false,
    is: ({ circle }) => circle,
    format: (circle: boolean) => (circle ? 'yes' : 'no'),
    say: ({ shapeAt }) =>
      `Cut it to a circle, ${shapeAt === 'draw' ? 'by clipping at each draw' : 'once, when it is decoded'}.`,
  },
  {
    setting: '/decodeAt',
    place: 'bind',
    label: 'Decode at',
    reason: 'More px than are shown take memory and time for nothing.',
    plain: () => ({ type: 'original' }),
    isMeasured: true,
    is: ({ decodeAt }) => decodeAt,
    format: (decodeAt: Slot['decodeAt']) =>
      ({
        slot: 'the slot’s size',
        original: 'its own size',
        fixed: `${decodeAt.type === 'fixed' ? decodeAt.px : ''} px`,
      })[decodeAt.type],
    say: ({ decodeAt }) =>
      decodeAt.type === 'fixed'
        ? `Decode its picture so that its longer side has ${decodeAt.px} px.`
        : 'Decode its picture at the size of the slot in px, not at the size in which it is sent.',
  },
  {
    setting: '/transition/type',
    place: 'bind',
    label: 'Arrival',
    reason: 'How a picture that has just arrived appears.',
    plain: () => 'none',
    isMeasured: true,
    is: ({ transition }) => transition.type,
    format: (type: Slot['transition']['type']) => type.replace('-', ' and '),
    say: ({ transition }) =>
      `${transition.type === 'fade' ? 'Fade it in' : `Fade it in and let it grow from ${transition.fromScale} of its size`} over ${transition.ms} ms when it arrives, ${transition.on === 'compositor' ? 'on the compositor' : 'on the main thread'}${skipWord(transition)}.`,
  },
  {
    setting: '/priority',
    place: 'bind',
    label: 'Priority',
    reason: 'Which slot of a cell is requested first.',
    plain: () => 'normal',
    isMeasured: true,
    is: ({ priority }) => priority,
    format: (priority: string) => priority,
    say: ({ priority }) =>
      `Ask for it with ${priority} priority: ${priority === 'high' ? 'before' : 'after'} the others of its cell.`,
  },
]

/** The settings of a screen's slot that differ from a plain loader's, with their places in the project file. */
export interface SlotLine {
  path: string
  /** The slot, in words. */
  of: string
  instruction: SlotInstruction
  slot: Slot
}

export function slotLinesOf(screen: Screen, number: number): SlotLine[] {
  return screen.cells.flatMap((cell, c) =>
    cell.slots.flatMap((slot, s) => {
      const kind = screen.cells.length > 1 && cell.kind !== '*' ? ` of “${cell.kind}”` : ''
      return slotInstructions
        .filter(({ is, plain }) => JSON.stringify(is(slot)) !== JSON.stringify(plain(slot)))
        .map((instruction) => ({
          path: `/screens/${number}/cells/${c}/slots/${s}${instruction.setting}`,
          of: `Slot “${slot.id}”${kind}`,
          instruction,
          slot,
        }))
    }),
  )
}
