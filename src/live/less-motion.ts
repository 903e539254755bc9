let asked: MediaQueryList | null = null

/** Whether motion is not wanted; asked for once, and true to what is chosen meanwhile. */
export const lessMotion = (): MediaQueryList => (asked ??= matchMedia('(prefers-reduced-motion: reduce)'))
