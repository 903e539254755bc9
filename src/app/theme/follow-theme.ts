/** Light or dark as the system says; Bootstrap and our tokens follow the same attribute. */
export function followTheme(): void {
  const dark = matchMedia('(prefers-color-scheme: dark)')
  const apply = () => {
    document.documentElement.dataset.bsTheme = dark.matches ? 'dark' : 'light'
  }
  dark.addEventListener('change', apply)
  apply()
}
