import type { z } from 'zod'
import type { projectSchema } from './project-schema.ts'

/** A project as it is used inside: parsed, every default filled in, slots resolved. */
export type Project = z.output<typeof projectSchema>
export type Screen = Project['screens'][number]
export type Feed = Screen['feed']
export type Layout = Screen['layout']
export type Cell = Screen['cells'][number]
export type Slot = Cell['slots'][number]
export type TextLine = Cell['texts'][number]
export type Visual = Slot['stages']['waiting']['visual']
export type StageName = 'absent' | 'waiting' | 'arriving' | 'settled' | 'failed'
export type Fit = Slot['fit']
export type Transition = Slot['transition']
export type Treatment = Slot['treatments'][number]
export type Loading = Project['loading']
export type Device = Project['device']
export type Costs = Device['costs']
export type NetworkSettings = Project['network']
export type Fault = NetworkSettings['faults'][number]
export type Script = Project['scripts'][number]
export type Step = Script['steps'][number]
export type Item = Record<string, unknown>
export type Visit = 'first' | 'restarted' | 'again'
