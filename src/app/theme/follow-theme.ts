import { createStore } from '../store/external-store.ts'

const theme = createStore<'light' | 'dark'>('light')
/** For canvases, which no style sheet reaches. */
export const useTheme = theme.use

/** Light or dark as the system says; Bootstrap and our tokens follow the same attribute. */
export function followTheme(): void {
  const dark = matchMedia('(prefers-color-scheme: dark)')
  const apply = () => {
    const now = dark.matches ? 'dark' : 'light'
    document.documentElement.dataset.bsTheme = now
    theme.set(now)
  }
  dark.addEventListener('change', apply)
  apply()
}
