/** See set-up.mjs; tests use this of it. */
export function compress(folder: string): void
export function buildPrograms(say: (text: string) => void): string
