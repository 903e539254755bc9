import type { Raw } from '../../core/project/parse.ts'

/** The demo's project, loaded where it is opened: who has projects of their own does not wait for it. */
export const loadDemo = async (): Promise<Raw> => (await import('../../../demo/saltmarsh.tiletug.json')).default
