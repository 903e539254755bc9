import { textAt, valueAt } from '../core/feed/json-pointer.ts'
import type { Item, Visual } from '../core/project/types.ts'
import { drawnPreview, drawPreview, type HashedAs, type Preview } from './hashed-preview.ts'

/** A tiny preview is a data address of a picture, or its base64 alone; nothing else gets into a style. */
const isPreview = (text: string) =>
  text.length < 20_000 && /^(data:image\/(png|jpeg|webp|gif|avif);base64,)?[A-Za-z0-9+/]+=*$/.test(text)

/** The item that a placeholder is shown for: a preview that is drawn later is shown if it is still the same. */
const standsFor = new WeakMap<HTMLElement, Item>()

/** Shows the stand-in for the picture of an item. */
export function showVisual(
  placeholder: HTMLElement,
  item: Item,
  assetUrl: (name: string) => string,
  visual: Visual,
): void {
  const name = nameOf(visual)
  // Written only where it changes: each write costs a style calculation.
  if (placeholder.dataset.visual !== name) placeholder.dataset.visual = name
  if (placeholder.style.background !== '') placeholder.style.background = ''
  standsFor.set(placeholder, item)
  switch (visual.type) {
    case 'colour':
      placeholder.style.background = visual.colour
      return
    case 'item-colour': {
      const colour = valueAt(item, visual.at)
      placeholder.style.background = typeof colour === 'string' && /^#[0-9a-f]{6}$/i.test(colour) ? colour : ''
      return
    }
    case 'picture':
      placeholder.style.background = `center / var(--fit) no-repeat url("${assetUrl(visual.asset)}")`
      return
    case 'ring':
      if (placeholder.style.getPropertyValue('--share') !== '0') placeholder.style.setProperty('--share', '0')
      return
    case 'preview': {
      const preview = textAt(item, visual.at)
      if (preview === null) return
      if (visual.as !== 'data') showHashed(placeholder, item, visual.as, preview)
      else if (isPreview(preview))
        placeholder.style.background = `center / cover url("${preview.startsWith('data:') ? preview : `data:image/webp;base64,${preview}`}")`
      return
    }
    case 'space':
    case 'drawn':
    case 'skeleton':
      return
  }
}

/** A preview that has to be drawn first is shown when it is there. */
function showHashed(placeholder: HTMLElement, item: Item, as: HashedAs, text: string): void {
  const show = ({ url }: Preview) => (placeholder.style.background = `center / 100% 100% url("${url}")`)
  const known = drawnPreview(as, text)
  if (known) show(known)
  else if (known === undefined)
    void drawPreview(as, text).then((preview) => {
      if (preview && standsFor.get(placeholder) === item && placeholder.dataset.visual === 'hashed-preview')
        show(preview)
    })
}

/** The name of a visual in style sheets. A hash is smooth as it is drawn; other previews are blurred. */
function nameOf(visual: Visual): string {
  if (visual.type === 'drawn') return visual.shape
  return visual.type === 'preview' && visual.as !== 'data' ? 'hashed-preview' : visual.type
}
