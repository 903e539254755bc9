import type { Visit } from './types.ts'

/** Visits in the order in which each begins with what the one before has left. */
export const visitOrder: readonly Visit[] = ['first', 'restarted', 'again']
