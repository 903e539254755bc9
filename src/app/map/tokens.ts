/** Colours of the style sheet, which follow the theme: each is read once, since reading them is slow. */
export class Tokens {
  private readonly known = new Map<string, string>()
  private theme = ''

  of(element: Element, theme: string): (token: string) => string {
    if (theme !== this.theme) this.known.clear()
    this.theme = theme
    return (token) => {
      const found = this.known.get(token) ?? getComputedStyle(element).getPropertyValue(token)
      this.known.set(token, found)
      return found
    }
  }
}
