import { dequal } from 'dequal'
import FormControl from 'react-bootstrap/FormControl'
import type { Project, Slot } from '../../../core/project/types.ts'
import { Amount } from '../../controls/Amount.tsx'
import { Choice } from '../../controls/Choice.tsx'
import { set } from '../../store/project-store.ts'
import { Exact } from './Exact.tsx'
import { Treatments } from './Treatments.tsx'
import { Chip } from '../../controls/Chip.tsx'

interface PictureSlotProps {
  project: Project
  slot: Slot
  path: string
  px: { width: number; height: number }
  /** The slot's frame, dp. */
  box: { width: number; height: number }
  /** px of the decoded sample; null while there is none. */
  decoded: { width: number; height: number } | null
}

/** Decoded ÷ shown px: above the first of these is waste, below the second softness. */
const tooMany = 1.5
const tooFew = 1 / 1.2

const media: readonly { name: string; explain: string; is: Slot['media'] }[] = [
  { name: 'still', explain: 'One picture', is: { type: 'still' } },
  {
    name: 'plays on screen',
    explain: 'A moving picture plays while it is on screen: each of its frames costs the main thread an upload',
    is: { type: 'animated', play: 'on-screen' },
  },
  {
    name: 'always plays',
    explain: 'A moving picture plays as long as its cell is attached, seen or not',
    is: { type: 'animated', play: 'always' },
  },
  {
    name: 'first frame',
    explain: 'Only the first frame of a moving picture is decoded',
    is: { type: 'animated', play: 'first-frame' },
  },
  {
    name: 'poster',
    explain: 'One frame cut from a video: seeking costs, and so does the decode',
    is: { type: 'poster', offsetMs: 0 },
  },
]

/** Whether a slot has this type of media, whatever the moment of a poster. */
const isMedia = (one: Slot['media'], other: Slot['media']) =>
  one.type === 'poster' ? other.type === 'poster' : dequal(one, other)

/** The ways in which a frame gets its size, each starting at the frame's present one. */
function sizes(
  { size, widthAt, heightAt }: Slot,
  box: { width: number; height: number },
): { name: string; size: Slot['size'] }[] {
  const [width, height] = [Math.max(1, Math.round(box.width)), Math.max(1, Math.round(box.height))]
  const options: { name: string; size: Slot['size'] }[] = [
    { name: 'fixed', size: { type: 'fixed', widthDp: width, heightDp: height } },
    { name: 'fill', size: { type: 'fill' } },
    { name: 'share', size: { type: 'share', of: 0.5 } },
    { name: 'aspect', size: { type: 'aspect', ratio: Math.round((1000 * width) / height) / 1000 } },
    { name: 'of the item', size: { type: 'aspect-at', width: widthAt ?? '/width', height: heightAt ?? '/height' } },
    { name: 'of the picture', size: { type: 'from-picture' } },
  ]
  return options.map((each) => (each.size.type === size.type ? { ...each, size } : each))
}

/** Frame, fit, shape, treatments and decoding of one picture slot. */
export function PictureSlot({ project, slot, path, px, box, decoded }: PictureSlotProps) {
  const corner = slot.cornersDp[0]
  const ratio = decoded ? Math.min(decoded.width / px.width, decoded.height / px.height) : 1
  return (
    <section className="tt-card" aria-label="Picture slot">
      <h2>
        Picture slot · {px.width} × {px.height} px
      </h2>
      <Choice
        path={`${path}/fit`}
        value={slot.fit}
        names={{ contain: 'contain', cover: 'cover', fill: 'fill', none: 'none', 'scale-down': 'scale down' }}
      />
      <div className="tt-field" data-explain="How the slot's frame gets its size">
        <span>Frame</span>
        <div className="tt-swatches" role="group" aria-label="Frame">
          {sizes(slot, box).map(({ name, size }) => (
            <Chip
              key={size.type}
              aria-pressed={slot.size.type === size.type}
              onClick={() => slot.size.type !== size.type && set(`${path}/size`, size)}
            >
              {name}
            </Chip>
          ))}
        </div>
      </div>
      <Amount
        path={`${path}/cornersDp`}
        value={corner}
        from={0}
        to={64}
        onChange={(dp) => set(`${path}/cornersDp`, [dp, dp, dp, dp])}
        note="all four"
      />
      <div className="tt-field">
        <span>Shape</span>
        <div className="tt-swatches" role="group" aria-label="Shape">
          <Chip aria-pressed={slot.circle} onClick={() => set(`${path}/circle`, !slot.circle)}>
            circle
          </Chip>
          <Chip aria-pressed={slot.clip} onClick={() => set(`${path}/clip`, !slot.clip)}>
            clip
          </Chip>
          <Chip
            aria-pressed={slot.shapeAt === 'decode'}
            data-explain="Corners cut once when decoding, instead of at each draw"
            onClick={() => set(`${path}/shapeAt`, slot.shapeAt === 'decode' ? 'draw' : 'decode')}
          >
            cut at decode
          </Chip>
        </div>
      </div>
      <Amount
        path={`${path}/insetDp`}
        value={slot.insetDp[0]}
        from={0}
        to={40}
        onChange={(dp) => set(`${path}/insetDp`, [dp, dp, dp, dp])}
        note="all four"
      />
      <Amount path={`${path}/shadowDp`} value={slot.shadowDp} from={0} to={24} />
      <Choice path={`${path}/priority`} value={slot.priority} names={{ low: 'low', normal: 'normal', high: 'high' }} />
      <Treatments slot={slot} path={path} px={px.width * px.height} costs={project.device.costs.treatNsPerPx} />
      {ratio > tooMany && (
        <p className="tt-saving">
          Too many: {decoded!.width} × {decoded!.height} px are decoded for {px.width} × {px.height} shown. Decode at
          the slot’s size.
        </p>
      )}
      {ratio < tooFew && slot.fit !== 'none' && (
        <p className="tt-saving">
          Soft: {decoded!.width} × {decoded!.height} px are stretched over {px.width} × {px.height}. Ask for a larger
          picture in Feed.
        </p>
      )}
      <details>
        <summary>More</summary>
        <Exact slot={slot} path={path} />
        <div className="tt-field" data-explain="What kind of picture the address leads to">
          <span>Media</span>
          <div className="tt-swatches" role="group" aria-label="Media">
            {media.map(({ name, explain, is }) => (
              <Chip
                key={name}
                aria-pressed={isMedia(slot.media, is)}
                data-explain={explain}
                onClick={() => isMedia(slot.media, is) || set(`${path}/media`, is)}
              >
                {name}
              </Chip>
            ))}
            {slot.media.type === 'poster' && (
              <FormControl
                size="sm"
                type="number"
                min={0}
                className="tt-small-number"
                aria-label="Poster at, ms"
                data-explain="The moment of the video that is cut out, ms"
                value={slot.media.offsetMs}
                onChange={(event) => set(`${path}/media/offsetMs`, Number(event.target.value))}
              />
            )}
          </div>
        </div>
        <div className="tt-field">
          <span>Decode at</span>
          <div className="tt-swatches" role="group" aria-label="Decode at">
            {(
              [
                ['slot', 'the slot’s size'],
                ['original', 'as sent'],
                ['fixed', 'fixed'],
              ] as const
            ).map(([type, name]) => (
              <Chip
                key={type}
                aria-pressed={slot.decodeAt.type === type}
                onClick={() =>
                  set(`${path}/decodeAt`, type === 'fixed' ? { type, px: Math.max(px.width, px.height) } : { type })
                }
              >
                {name}
              </Chip>
            ))}
          </div>
        </div>
      </details>
    </section>
  )
}
