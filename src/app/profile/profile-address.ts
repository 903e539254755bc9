import { useEffect, useRef } from 'react'
import { useSearchParams } from 'react-router'
import useSWR from 'swr'
import type { MapData } from '../../core/profile/views/map-data.ts'
import type { MapRange } from '../map/map-view.ts'
import type { Projection } from '../map/projection.ts'
import { staysAt, useGo } from '../shell/address.ts'
import { database } from '../store/database.ts'
import { showRun, useRuns } from '../store/run-store.ts'
import { lenses, type FootLens } from './ProfileFoot.tsx'
import { useProfileParams, type NamedNumber } from './profile-params.ts'

/** Why a run that an address names cannot be shown here. */
export interface Missing {
  run: string
  /** The project that it belongs to; null: it is nowhere in this browser. */
  elsewhere: { project: string; name: string; run: number } | null
}

/**
 * Shows the run that the address names. Without one the address becomes that of the latest run; a run that is made
 * while Profile is open replaces it.
 */
export function useAddressedRun(): { missing: Missing | null } {
  const { list, shown, read, project } = useRuns()
  const { run } = useProfileParams()
  const go = useGo()
  const wanted = run?.id ?? null
  const known = list.some(({ id }) => id === wanted)
  const newest = list.at(-1)?.id ?? null
  /** The newest run of the project when it was last checked. */
  const before = useRef<{ project: string | null; newest: number | null } | null>(null)
  useEffect(() => {
    if (!read || !staysAt('/profile')) return
    const last = before.current
    before.current = { project, newest }
    const isNew = last !== null && last.project === project && newest !== null && newest > (last.newest ?? 0)
    if (isNew && wanted !== newest) go(`/profile/${newest}`, { replace: run === null })
    else if (run === null && shown !== null) go(`/profile/${shown}`, { replace: true })
    else if (known && wanted !== null && wanted !== shown) showRun(wanted)
    // A run that is picked elsewhere, in the strip or by deleting, is not what the address names.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [read, project, newest, run, known, go])
  const isMissing = read && run !== null && !known
  const { data: elsewhere } = useSWR(isMissing ? (['run elsewhere', wanted] as const) : null, ([, id]) =>
    findElsewhere(id),
  )
  return { missing: isMissing && elsewhere !== undefined ? { run: run.named, elsewhere } : null }
}

async function findElsewhere(id: number | null): Promise<Missing['elsewhere']> {
  const run = id === null ? undefined : await database.runs.get(id)
  const project = run && (await database.projects.get(run.project))
  return project ? { project: project.id, name: project.name, run: run!.id } : null
}

/** The request that an address names; null: the run has no such request. */
export const requestIn = (map: MapData, { id }: NamedNumber): number | null =>
  id !== null && map.lines.request.includes(id) ? id : null

interface ProfileView {
  lens: FootLens
  setLens: (lens: FootLens) => void
  projection: Projection
  setProjection: (projection: Projection) => void
  /** The part of the map that is selected. */
  range: MapRange | null
  setRange: (range: MapRange | null) => void
  /** All this as the end of an address. */
  search: string
}

/** How the run is looked at: part of the address, so that a link leads to the same view. */
export function useProfileView(): ProfileView {
  const [query, setQuery] = useSearchParams()
  const put = (name: string, value: string | null) =>
    setQuery(
      (now) => {
        const next = new URLSearchParams(now)
        if (value === null) next.delete(name)
        else next.set(name, value)
        return next
      },
      { replace: true },
    )
  const lens = query.get('lens') as FootLens | null
  const text = query.toString()
  return {
    lens: lens !== null && lenses.includes(lens) ? lens : 'findings',
    setLens: (next) => put('lens', next === 'findings' ? null : next),
    projection: query.get('projection') === 'distance' ? 'distance' : 'rows',
    setProjection: (next) => put('projection', next === 'rows' ? null : next),
    range: rangeFrom(query.get('part')),
    setRange: (next) => put('part', next && rangeText(next)),
    search: text === '' ? '' : `?${text}`,
  }
}

/** A part of the map as four numbers: ms from and to, dp from and to; "all" where it has no end. */
const rangeText = ({ fromMs, toMs, fromDp, toDp }: MapRange) =>
  [fromMs, toMs, fromDp, toDp].map((each) => (Number.isFinite(each) ? String(Math.round(each)) : 'all')).join('-to-')

/** What "all" stands for in each of the four. */
const unbounded = [Infinity, Infinity, -Infinity, Infinity]

function rangeFrom(text: string | null): MapRange | null {
  const parts = text?.split('-to-') ?? []
  const numbers = parts.map((part, i) => (part === 'all' ? unbounded[i]! : Number(part)))
  if (numbers.length !== 4 || numbers.some((each) => Number.isNaN(each))) return null
  const [fromMs, toMs, fromDp, toDp] = numbers as [number, number, number, number]
  return { fromMs, toMs, fromDp, toDp }
}
