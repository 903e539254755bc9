import { copyFile, mkdir, readdir, rm, writeFile } from 'node:fs/promises'
import { extname, join } from 'node:path'
import sharp from 'sharp'
import { photoCount, photoOf } from './photos.ts'

/** Where Debian's packages put wallpapers: real photos of many sizes. */
const wallpapers = ['/usr/share/wallpapers', '/usr/share/backgrounds']
const megapixels = { from: 2, to: 12.5 }

/** Makes a folder of photos, unless it is there. */
export async function makePhotos(folder: string): Promise<void> {
  const before = await readdir(folder).catch(() => [])
  if (before.length !== photoCount) await fillFolder(folder)
}

/** Real photos as far as this machine has them, made ones of 2 to 12 megapixels for the rest. */
async function fillFolder(folder: string): Promise<void> {
  await rm(folder, { recursive: true, force: true })
  await mkdir(folder, { recursive: true })
  let count = 0
  for (const file of await realPhotos()) {
    if (count === photoCount) break
    await copyFile(file, join(folder, `real-${String(count++).padStart(2, '0')}${extname(file)}`))
  }
  for (; count < photoCount; count++) {
    const { name, width, height, pixels, small } = photoOf(count)
    const photo = sharp(pixels, { raw: { ...small, channels: 3 } }).resize(width, height, {
      fit: 'fill',
      kernel: 'cubic',
    })
    await writeFile(join(folder, name), await photo.jpeg({ quality: 70 }).toBuffer())
  }
}

async function realPhotos(): Promise<string[]> {
  const found: string[] = []
  for (const place of wallpapers)
    for (const entry of await readdir(place, { recursive: true, withFileTypes: true }).catch(() => [])) {
      if (!entry.isFile() || !/\.(jpe?g|png|webp)$/i.test(entry.name)) continue
      const file = join(entry.parentPath, entry.name)
      const { width, height } = await sharp(file).metadata()
      const size = (width * height) / 1e6
      if (size >= megapixels.from && size <= megapixels.to) found.push(file)
    }
  return found.sort()
}
