import { valueAt } from '../feed/json-pointer.ts'
import type { Project } from '../project/types.ts'
import { settingAt } from '../project/settings-index.ts'
import { isWhole, namesOf } from './setting.ts'
import type { Raw } from '../project/parse.ts'

/** Shares of a number's present value at which it is tried by default. */
const ladder = [0.5, 1, 1.5, 2]

/** Default values for a setting: all of them if there are few, else some around the present one. */
export function defaultValues(path: string, project: Project, raw: Raw): unknown[] {
  if (isWhole(path)) return namesOf(path, raw)
  if (path === 'variant') return ['', ...project.variants.map(({ name }) => name)]
  const { options, min, max } = settingAt(path)
  const now = valueAt(project, path)
  if (options.length > 0) return options
  if (typeof now === 'boolean') return [false, true]
  if (typeof now !== 'number') return [now]
  if (max <= 1) return [0, 0.25, 0.5, 0.75, 1]
  const whole = Number.isInteger(now) ? Math.round : (value: number) => Number(value.toPrecision(6))
  const around = now === 0 ? [0, 1, 2, 4] : ladder.map((share) => now * share)
  return [...new Set(around.map((value) => Math.min(max, Math.max(min, whole(value)))))]
}

/** Names of settings, wherever they are. */
export function labelOf(path: string): string {
  if (path === 'variant') return 'Variant'
  return isWhole(path) ? { device: 'Device', network: 'Network', policy: 'Policy' }[path] : settingAt(path).label
}
