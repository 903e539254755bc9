/** See programs.cjs; the bench uses this of it. */
export const onAllCores: readonly string[]
