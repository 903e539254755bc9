import type { Job } from '../simulate/worker-client.ts'

/** The simulation that is under way, if one is. */
export const underWay: { simulation: Pick<Job<unknown>, 'cancel'> | null } = { simulation: null }
