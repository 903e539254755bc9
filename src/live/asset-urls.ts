import type { Project } from '../core/project/types.ts'

/** The address of a picture that the project carries, by its name; empty when there is none. */
export function assetUrls(assets: Project['assets']): (name: string) => string {
  const urls = new Map(assets.map(({ name, type, base64 }) => [name, `data:${type};base64,${base64}`]))
  return (name) => urls.get(name) ?? ''
}
