import { dequal } from 'dequal'
import FormControl from 'react-bootstrap/FormControl'
import type { Item, Slot, StageName, Visual } from '../../../core/project/types.ts'
import { forceStage, useDevice } from '../../device/device-store.ts'
import { edit, set } from '../../store/project-store.ts'
import { Fallbacks } from './Fallbacks.tsx'
import { OfItem } from './OfItem.tsx'
import { StageOwn } from './StageOwn.tsx'
import { Chip } from '../../controls/Chip.tsx'

interface StageLookProps {
  slot: Slot
  stage: Exclude<StageName, 'settled'>
  path: string
  assets: readonly string[]
  item: Item
  /** The slot's settled frame, dp. */
  box: { width: number; height: number }
}

const visuals: readonly { name: string; visual: Visual }[] = [
  { name: 'colour', visual: { type: 'colour', colour: '#E6DFCF' } },
  { name: 'the item’s own', visual: { type: 'item-colour', at: '/colour' } },
  { name: 'skeleton', visual: { type: 'skeleton' } },
  { name: 'ring', visual: { type: 'ring' } },
  { name: 'outline', visual: { type: 'drawn', shape: 'tile-outline' } },
  { name: 'cracked', visual: { type: 'drawn', shape: 'cracked-tile' } },
  { name: 'preview', visual: { type: 'preview', at: '/preview', as: 'data' } },
  { name: 'space', visual: { type: 'space' } },
]
const swatches = ['#E6DFCF', '#F7F4EC', '#C9D9DB', '#D9CBB6', '#31465C', '#15252F']
const holding = ['absent', 'waiting', 'arriving', 'failed'] as const

/** What stands in for the picture in one stage; one click sets it for all of them. */
export function StageLook({ slot, stage, path, assets, item, box }: StageLookProps) {
  const { visual, frame } = slot.stages[stage]
  const forced = useDevice(({ forced }) => forced)
  const at = `${path}/stages/${stage}/visual`
  const colour = visual.type === 'colour' ? visual.colour.toUpperCase() : null
  const same = holding.every((each) => dequal(slot.stages[each].visual, visual))
  return (
    <section className="tt-card" aria-label="Stage">
      <h2>Stage “{stage}”</h2>
      <div className="tt-swatches" role="group" aria-label="Placeholder">
        {visuals.map(({ name, visual: each }) => (
          <Chip
            key={name}
            aria-pressed={
              visual.type === each.type &&
              (visual.type !== 'drawn' || each.type !== 'drawn' || visual.shape === each.shape)
            }
            onClick={() => set(at, each)}
          >
            {name}
          </Chip>
        ))}
        {assets.map((asset) => (
          <Chip
            key={asset}
            aria-pressed={visual.type === 'picture' && visual.asset === asset}
            onClick={() => set(at, { type: 'picture', asset })}
          >
            {asset}
          </Chip>
        ))}
      </div>
      {(visual.type === 'item-colour' || visual.type === 'preview') && <OfItem at={at} visual={visual} item={item} />}
      {visual.type === 'colour' && (
        <div className="tt-swatches" role="group" aria-label="Colour" style={{ marginTop: 6 }}>
          {swatches.map((each) => (
            <button
              key={each}
              type="button"
              className="tt-swatch"
              aria-label={`Colour ${each}`}
              aria-pressed={colour === each}
              style={{ background: each }}
              onClick={() => set(at, { type: 'colour', colour: each })}
            />
          ))}
          <FormControl
            size="sm"
            type="color"
            aria-label="Another colour"
            value={colour ?? swatches[0]}
            onChange={(event) => set(at, { type: 'colour', colour: event.target.value.toUpperCase() })}
          />
        </div>
      )}
      <div
        className="tt-field"
        data-explain="The room that the slot takes in this stage; where it differs from the settled one, arrivals move what is below"
      >
        <span>Frame</span>
        <div className="tt-swatches" role="group" aria-label="Frame in this stage">
          <Chip
            aria-pressed={frame === undefined}
            onClick={() => frame && edit('frame', [{ op: 'remove', path: `${path}/stages/${stage}/frame` }])}
          >
            the slot’s
          </Chip>
          <Chip
            aria-pressed={frame !== undefined}
            onClick={() =>
              !frame &&
              set(`${path}/stages/${stage}/frame`, { widthDp: Math.round(box.width), heightDp: Math.round(box.height) })
            }
          >
            its own
          </Chip>
          {frame &&
            (['widthDp', 'heightDp'] as const).map((side) => (
              <FormControl
                size="sm"
                key={side}
                type="number"
                min={0}
                max={2000}
                className="tt-small-number"
                aria-label={side === 'widthDp' ? 'Frame width, dp' : 'Frame height, dp'}
                value={frame[side]}
                onChange={(event) =>
                  event.target.value !== '' &&
                  set(`${path}/stages/${stage}/frame`, { ...frame, [side]: Number(event.target.value) })
                }
              />
            ))}
          {frame && 'dp'}
        </div>
      </div>
      {stage === 'failed' && <Fallbacks slot={slot} path={path} />}
      <details>
        <summary>More</summary>
        <StageOwn slot={slot} stage={stage} path={path} />
      </details>
      <p className="tt-quiet" style={{ margin: '6px 0' }}>
        Or drop a picture file on the stage.
      </p>
      <Chip
        disabled={same}
        onClick={() =>
          edit(
            'one visual',
            holding.map((each) => ({ op: 'replace', path: `${path}/stages/${each}/visual`, value: visual })),
          )
        }
      >
        The same in every stage
      </Chip>
      <Chip
        aria-pressed={forced === stage}
        data-explain="Every cell of the device shows this stage until it is let go"
        onClick={() => forceStage(forced === stage ? null : stage)}
      >
        show on the device
      </Chip>
      {same && <p className="tt-saving">Every stage looks the same: users cannot tell failed from waiting.</p>}
    </section>
  )
}
