import { copyFile, mkdir, readdir, rm, writeFile } from 'node:fs/promises'
import { extname, join } from 'node:path'
import sharp from 'sharp'
import { startServer } from '../../src/server/server.ts'
import { picturesFolder, testPort } from '../../playwright.config.ts'
import { photoCount, photoOf } from '../support/photos.ts'

/** Where Debian's packages put wallpapers: real photos of many sizes. */
const wallpapers = ['/usr/share/wallpapers', '/usr/share/backgrounds']
const megapixels = { from: 2, to: 12.5 }

/** Makes a folder of 40 photos and starts the server that all browser tests share. */
export default async function setUp(): Promise<() => Promise<void>> {
  const before = await readdir(picturesFolder).catch(() => [])
  if (before.length !== photoCount) await fillFolder()
  const server = await startServer({
    port: testPort,
    dist: 'dist',
    pictures: picturesFolder,
    // Names of the tests' own hosts lead to this machine.
    relay: {
      rules: { hosts: ['*.tests.example.test'], loopback: true },
      resolve: async () => ['127.0.0.1'],
      timeoutMs: 5000,
    },
  })
  return () => server.close()
}

/** Real photos as far as this machine has them, made ones of 2 to 12 megapixels for the rest. */
async function fillFolder(): Promise<void> {
  await rm(picturesFolder, { recursive: true, force: true })
  await mkdir(picturesFolder, { recursive: true })
  let count = 0
  for (const file of await realPhotos()) {
    if (count === photoCount) break
    await copyFile(file, join(picturesFolder, `real-${String(count++).padStart(2, '0')}${extname(file)}`))
  }
  for (; count < photoCount; count++) {
    const { name, width, height, pixels, small } = photoOf(count)
    const photo = sharp(pixels, { raw: { ...small, channels: 3 } }).resize(width, height, {
      fit: 'fill',
      kernel: 'cubic',
    })
    await writeFile(join(picturesFolder, name), await photo.jpeg({ quality: 70 }).toBuffer())
  }
}

async function realPhotos(): Promise<string[]> {
  const found: string[] = []
  for (const folder of wallpapers)
    for (const entry of await readdir(folder, { recursive: true, withFileTypes: true }).catch(() => [])) {
      if (!entry.isFile() || !/\.(jpe?g|png|webp)$/i.test(entry.name)) continue
      const file = join(entry.parentPath, entry.name)
      const { width, height } = await sharp(file).metadata()
      const size = (width * height) / 1e6
      if (size >= megapixels.from && size <= megapixels.to) found.push(file)
    }
  return found.sort()
}
