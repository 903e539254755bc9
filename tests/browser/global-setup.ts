import { existsSync } from 'node:fs'
import { mkdir, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import sharp from 'sharp'
import { startServer } from '../../src/server/server.ts'
import { picturesFolder } from '../../playwright.config.ts'
import { photoCount, photoOf } from '../support/photos.ts'

/** Makes a folder of photos and starts the server that all browser tests share. */
export default async function setUp(): Promise<() => Promise<void>> {
  await mkdir(picturesFolder, { recursive: true })
  for (let n = 0; n < photoCount; n++) {
    const { name, width, height, pixels, small } = photoOf(n)
    if (existsSync(join(picturesFolder, name))) continue
    const photo = sharp(pixels, { raw: { ...small, channels: 3 } }).resize(width, height, { fit: 'fill', kernel: 'cubic' })
    await writeFile(join(picturesFolder, name), await photo.jpeg({ quality: 70 }).toBuffer())
  }
  const server = await startServer({ port: 4317, dist: 'dist', pictures: picturesFolder })
  return () => server.close()
}
