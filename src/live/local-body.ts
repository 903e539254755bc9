import type { Project } from '../core/project/types.ts'

/** A picked file by its name; null: it is not in this browser. */
export type PickedFiles = (name: string) => Promise<Blob | null>

/**
 * A picture that is on the device already: a packaged picture, a data address (RFC 2397, base64 alone), a picked file.
 * Null: it is not there.
 */
export async function localBody(address: string, assets: Project['assets'], picked: PickedFiles): Promise<Blob | null> {
  if (address.startsWith('local:')) return picked(decodeURIComponent(address.slice('local:'.length)))
  if (address.startsWith('packaged:')) {
    const asset = assets.find(({ name }) => `packaged:${name}` === address)
    return asset ? bodyOf(asset.type, asset.base64) : null
  }
  const match = /^data:((?:image|video)\/[a-z0-9.+-]+)?;base64,([A-Za-z0-9+/]+=*)$/i.exec(address)
  return match && match[2]!.length % 4 === 0 ? bodyOf(match[1] ?? 'image/png', match[2]!) : null
}

function bodyOf(type: string, base64: string): Blob {
  const binary = atob(base64)
  return new Blob([Uint8Array.from(binary, (character) => character.charCodeAt(0))], { type })
}
