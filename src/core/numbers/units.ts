/** Lengths inside the engine: 1/1024 dp, whole numbers, so that sums are exact. */
export const unitsPerDp = 1024
export const toUnits = (dp: number) => Math.round(dp * unitsPerDp)
