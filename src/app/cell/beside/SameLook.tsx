import { Fold } from '../../controls/Fold.tsx'
import FormSelect from 'react-bootstrap/FormSelect'
import { useEffect, useRef, useState } from 'react'
import Button from 'react-bootstrap/Button'
import { differencesOf, type PixelDifference } from '../../../core/compare/same-pixels.ts'
import { cellWidthOf, layOutCell } from '../../../core/layout/cell-geometry.ts'
import type { Item, Project } from '../../../core/project/types.ts'
import { effectiveProject } from '../../../core/project/conditions.ts'
import { cellPixels } from '../../../live/cell-pixels.ts'
import { whenRestored } from '../../../live/when-restored.ts'
import { useProject, type ProjectState } from '../../store/project-store.ts'
import { samplePicture } from '../sample/sample-picture.ts'

interface SameLookProps {
  screen: number
  kind: number
  item: Item
}

const asItIs = ''

type Outcome =
  | { is: 'compared'; one: string; other: string; found: PixelDifference; looks: [ImageData, ImageData] }
  | { is: 'failed'; why: string }

/** Two variants of the cell, compared px by px. */
export function SameLook({ screen, kind, item }: SameLookProps) {
  const state = useProject()!
  const names = [asItIs, ...state.project.variants.map(({ name }) => name)]
  const [pair, setPair] = useState<[string, string]>([asItIs, names[1] ?? asItIs])
  const [outcome, setOutcome] = useState<Outcome | null>(null)
  const label = (name: string) => (name === asItIs ? 'the file as it is' : name)
  const pick = (at: 0 | 1, name: string) => setPair(at === 0 ? [name, pair[1]] : [pair[0], name])
  const compare = () => {
    Promise.all(pair.map((name) => renderCell(state, name, { screen, kind, item }))).then(
      ([one, other]) =>
        setOutcome({
          is: 'compared',
          one: label(pair[0]),
          other: label(pair[1]),
          found: differencesOf(one!, other!),
          looks: [one!, other!],
        }),
      (error: unknown) => setOutcome({ is: 'failed', why: error instanceof Error ? error.message : String(error) }),
    )
  }
  return (
    <Fold title="Same look? Px by px" className="tt-same-look">
      {names.length < 2 ? (
        <p className="tt-quiet">
          This project has no variant yet. Keep what you change as one with the variant chip on the device; then the two
          can be held against each other here.
        </p>
      ) : (
        <div className="tt-source-line">
          {([0, 1] as const).map((at) => (
            <FormSelect
              size="sm"
              key={at}
              aria-label={at === 0 ? 'One variant' : 'The other variant'}
              value={names.includes(pair[at]) ? pair[at] : asItIs}
              onChange={(event) => pick(at, event.target.value)}
            >
              {names.map((name) => (
                <option key={name} value={name}>
                  {label(name)}
                </option>
              ))}
            </FormSelect>
          ))}
          <Button size="sm" variant="outline-primary" onClick={compare}>
            Compare the settled cell
          </Button>
          <span role="status">
            {outcome?.is === 'failed' && `They could not be compared: ${outcome.why}`}
            {outcome?.is === 'compared' && sentence(outcome.found)}
          </span>
        </div>
      )}
      {outcome?.is === 'compared' && (
        <div className="tt-source-line">
          <Drawn data={outcome.looks[0]} name={outcome.one} />
          <Drawn data={outcome.looks[1]} name={outcome.other} />
          <Drawn data={picture(outcome.found)} name="where they differ" />
        </div>
      )}
    </Fold>
  )
}

function sentence({ differing, width, height, most }: PixelDifference): string {
  const all = width * height
  return differing === 0
    ? `The same: none of ${all.toLocaleString('en')} px differs.`
    : `${differing.toLocaleString('en')} of ${all.toLocaleString('en')} px differ (${((100 * differing) / all).toFixed(1)} %), by ${most} of 255 at most.`
}

/** Differing px in ink on white, darker the more they differ. */
function picture({ width, height, by }: PixelDifference): ImageData {
  const data = new ImageData(width, height)
  for (const [at, value] of by.entries()) {
    const light = value === 0 ? 255 : Math.round(170 * (1 - value / 255))
    data.data.set([light, value === 0 ? 255 : light / 2, value === 0 ? 255 : light / 2, 255], 4 * at)
  }
  return data
}

function Drawn({ data, name }: { data: ImageData; name: string }) {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    const draw = () => canvas.current!.getContext('2d')!.putImageData(data, 0, 0)
    draw()
    return whenRestored(canvas.current!, draw)
  }, [data])
  return (
    <figure>
      <canvas ref={canvas} width={data.width} height={data.height} role="img" aria-label={name} />
      <figcaption className="tt-quiet">{name}</figcaption>
    </figure>
  )
}

async function renderCell(
  state: ProjectState,
  variant: string,
  { screen: at, kind, item }: SameLookProps,
): Promise<ImageData> {
  const parsed = effectiveProject(state.raw, variant === asItIs ? null : variant)
  if (!parsed.ok) throw new Error(parsed.message)
  const project: Project = parsed.project
  const screen = project.screens[at]
  const cell = screen?.cells[kind]
  if (!screen || !cell) throw new Error(`"${variant}" has no such cell`)
  const { widthDp: width, density } = project.device
  const widthDp = cellWidthOf(screen.layout, width)
  const geometry = layOutCell(cell, widthDp, item, () => null)
  const px = (dp: number) => Math.max(1, Math.round(dp * density))
  const pictures = await Promise.all(
    cell.slots.map((slot, i) =>
      samplePicture({ id: state.id, project }, screen, slot, item, {
        width: px(geometry.slots[i]!.width),
        height: px(geometry.slots[i]!.height),
      }),
    ),
  )
  return cellPixels({ project, cell, item, widthDp, geometry, pictures })
}
