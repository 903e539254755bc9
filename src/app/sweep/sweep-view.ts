import { useCallback } from 'react'
import { useNavigate, useSearchParams } from 'react-router'
import { isMetricId, type MetricId } from '../../core/profile/figures/metric-definitions.ts'

/**
 * How maps are ordered: as the settings were varied, by the room that the budgets have left, or by a figure, the better
 * first.
 */
export type MapOrder = 'settings' | 'room' | MetricId

/** What is drawn of a sweep, as its address says it. */
export interface SweepView {
  /** The row that is picked. */
  picked: number | null
  x: MetricId
  y: MetricId
  size: MetricId
  order: MapOrder
}

const byDefault: SweepView = {
  picked: null,
  x: 'bytes.wastedShare',
  y: 'pictures.holeShare',
  size: 'memory.peakMb',
  order: 'settings',
}

/** Reads and writes the view of a sweep where it can be kept and passed on: in the address. */
export function useSweepView(): [SweepView, <K extends keyof SweepView>(what: K, value: SweepView[K]) => void] {
  const [query] = useSearchParams()
  const navigate = useNavigate()
  const metric = (name: 'x' | 'y' | 'size') => {
    const named = query.get(name)
    return named !== null && isMetricId(named) ? named : byDefault[name]
  }
  const order = query.get('order')
  const picked = query.get('picked')
  const view: SweepView = {
    picked: picked !== null && /^\d{1,4}$/.test(picked) ? Number(picked) : null,
    x: metric('x'),
    y: metric('y'),
    size: metric('size'),
    order: order !== null && (order === 'room' || isMetricId(order)) ? order : byDefault.order,
  }
  const show = useCallback(
    <K extends keyof SweepView>(what: K, value: SweepView[K]) => {
      // The address as it is by now: two changes may come before a view is drawn again.
      const next = new URLSearchParams(window.location.search)
      if (value === byDefault[what]) next.delete(what)
      else next.set(what, String(value))
      void navigate({ search: next.toString() }, { replace: true })
    },
    [navigate],
  )
  return [view, show]
}
