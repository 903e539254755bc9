import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { pictureHeader } from '../../src/workers/picture-header.ts'

describe('picture headers', () => {
  it('give the px of every format that the origin sends, and null for what is none', async () => {
    const image = sharp({ create: { width: 321, height: 123, channels: 3, background: '#357' } })
    for (const format of ['png', 'jpeg', 'webp', 'gif', 'avif'] as const)
      expect([format, pictureHeader(await image.clone().toFormat(format).toBuffer())]).toEqual([
        format,
        { width: 321, height: 123 },
      ])
    const jpeg = await image.jpeg().toBuffer()
    for (const broken of [Buffer.alloc(0), Buffer.from('no picture at all'), jpeg.subarray(0, 30)])
      expect(pictureHeader(broken)).toBeNull()
  })
})
