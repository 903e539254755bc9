import type { Raw } from '../../core/project/parse.ts'

/** The demo's project, loaded where it is opened: users with projects of their own do not wait for it. */
export const loadDemo = async (): Promise<Raw> => (await import('../../../demo/saltmarsh.tiletug.json')).default
