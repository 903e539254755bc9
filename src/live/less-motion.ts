let asked: MediaQueryList | null = null

/** Whether reduced motion is preferred; read once, and kept up to date. */
export const lessMotion = (): MediaQueryList => (asked ??= matchMedia('(prefers-reduced-motion: reduce)'))
