import { valueAt } from '../../core/feed/json-pointer.ts'
import type { Loading } from '../../core/project/types.ts'
import { Choice } from '../controls/Choice.tsx'
import { currentProject, edit, set } from '../store/project-store.ts'
import { Fold } from '../controls/Fold.tsx'
import { Chip } from '../controls/Chip.tsx'

const flags = [
  {
    name: 'no guard',
    path: '/loading/guard',
    is: (loading: Loading) => !loading.guard,
    on: false,
    off: true,
    explain: 'A late picture is set in whatever its cell is bound to by then',
  },
  {
    name: 'no reset on bind',
    path: '/loading/resetOnBind',
    is: (loading: Loading) => !loading.resetOnBind,
    on: false,
    off: true,
    explain: 'A cell keeps showing the former item’s picture until its own is there',
  },
  {
    name: 'no sharing',
    path: '/loading/share',
    is: (loading: Loading) => !loading.share,
    on: false,
    off: true,
    explain: 'Equal addresses in flight are fetched again and again',
  },
  {
    name: 'decode on main',
    path: '/loading/decodeOn',
    is: (loading: Loading) => loading.decodeOn === 'main',
    on: 'main',
    off: 'workers',
    explain: 'Every picture is decoded on the main thread, between frames',
  },
  {
    name: 'no memory cache',
    path: '/loading/memoryMb',
    is: (loading: Loading) => loading.memoryMb === 0,
    on: 0,
    off: 32,
    explain: 'Nothing that was decoded is kept',
  },
  {
    name: 'no disk cache',
    path: '/loading/diskMb',
    is: (loading: Loading) => loading.diskMb === 0,
    on: 0,
    off: 120,
    explain: 'Nothing that was fetched is kept',
  },
] as const

interface MistakesProps {
  loading: Loading
  /** Every picture slot of the project by its path, with what is wrong with it. */
  slots: readonly { path: string; high: boolean; whole: boolean }[]
}

/** A project's setting before its switch was turned on, for as long as the app is open. */
const former = new Map<string, unknown>()
const placeOf = (path: string) => `${currentProject()!.id} ${path}`

/** Turns a switch on, and notes what its setting was. */
function putOn(loading: Loading, path: string, value: unknown): void {
  former.set(placeOf(path), valueAt({ loading }, path))
  set(path, value)
}

/** Turns a switch off and restores its setting, or the default where the former one is not known. */
const putOff = (path: string, usual: unknown) => set(path, former.get(placeOf(path)) ?? usual)

/** Mistakes that apps are found to make, as switches, so that the app can be modelled as it is today. */
export function Mistakes({ loading, slots }: MistakesProps) {
  const allHigh = slots.length > 0 && slots.every(({ high }) => high)
  const allWhole = slots.length > 0 && slots.every(({ whole }) => whole)
  const never = loading.cancel.when === 'never'
  return (
    <Fold title="Common mistakes">
      <div className="tt-swatches">
        {flags.map(({ name, path, is, on, off, explain }) => (
          <Chip
            key={name}
            aria-pressed={is(loading)}
            data-explain={explain}
            onClick={() => (is(loading) ? putOff(path, off) : putOn(loading, path, on))}
          >
            {name}
          </Chip>
        ))}
        <Chip
          aria-pressed={never}
          data-explain="Pictures that are off screen again are loaded to the end"
          onClick={() =>
            never ? putOff('/loading/cancel/when', 'recycle') : putOn(loading, '/loading/cancel/when', 'never')
          }
        >
          no cancelling
        </Chip>
        <Chip
          aria-pressed={allWhole}
          data-explain="Pictures are decoded as they are sent, however small they are shown"
          onClick={() =>
            edit(
              'decode at',
              slots.map(({ path }) => ({
                op: 'replace',
                path: `${path}/decodeAt`,
                value: { type: allWhole ? 'slot' : 'original' },
              })),
            )
          }
        >
          full-size decode
        </Chip>
        <Chip
          aria-pressed={allHigh}
          data-explain="When everything is urgent, nothing is"
          onClick={() =>
            edit(
              'priority',
              slots.map(({ path }) => ({
                op: 'replace',
                path: `${path}/priority`,
                value: allHigh ? 'normal' : 'high',
              })),
            )
          }
        >
          everything at high priority
        </Chip>
      </div>
      <Choice
        path="/loading/setup"
        value={loading.setup}
        names={{
          'app-start': 'at start',
          'first-use': 'first use',
          'per-screen': 'each screen',
          'per-bind': 'each bind',
        }}
      />
    </Fold>
  )
}
