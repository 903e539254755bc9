import { createStore } from '../store/external-store.ts'

const open = createStore(false)
/** Whether the help panel is open. */
export const useHelp = open.use
export const setHelp = open.set
