import { crc32 } from 'node:zlib'
import type { Codec } from '../../core/feed/tiles.ts'

/**
 * Pads an encoded picture to exactly so many bytes with what its format allows and decoders skip: a comment segment
 * (JPEG), a private chunk (PNG, WebP) or a free box (AVIF). Null when the room is too small or too narrow for that.
 */
export function padTo(bytes: Buffer, size: number, codec: Codec): Buffer | null {
  const room = size - bytes.length
  if (room === 0) return bytes
  if (room < 0) return null
  switch (codec) {
    case 'webp':
      return padWebp(bytes, room)
    case 'jpeg':
      return padJpeg(bytes, room)
    case 'png':
      return padPng(bytes, room)
    case 'avif':
      return room < 8 ? null : Buffer.concat([bytes, sized(room), Buffer.from('free'), Buffer.alloc(room - 8)])
  }
}

/** A chunk of an unknown name after the picture (WebP container, "unknown chunks"). */
function padWebp(bytes: Buffer, room: number): Buffer | null {
  if (room < 8 || room % 2 === 1) return null
  const head = Buffer.alloc(8)
  head.write('TUGP', 0, 'latin1')
  head.writeUInt32LE(room - 8, 4)
  const padded = Buffer.concat([bytes, head, Buffer.alloc(room - 8)])
  padded.writeUInt32LE(padded.length - 8, 4)
  return padded
}

/** COM segments (ITU-T T.81, B.2.4.5) right after the start of the image. */
function padJpeg(bytes: Buffer, room: number): Buffer | null {
  const parts = [bytes.subarray(0, 2)]
  let rest = room
  while (rest > 0) {
    if (rest < 4) return null
    let length = Math.min(rest, 65_537)
    if (rest - length > 0 && rest - length < 4) length -= 4
    const head = Buffer.from([0xff, 0xfe, 0, 0])
    head.writeUInt16BE(length - 2, 2)
    parts.push(head, Buffer.alloc(length - 4, 0x20))
    rest -= length
  }
  return Buffer.concat([...parts, bytes.subarray(2)])
}

/** A private ancillary chunk (PNG, 4.7) before the end chunk, which is the last 12 bytes. */
function padPng(bytes: Buffer, room: number): Buffer | null {
  if (room < 12) return null
  const body = Buffer.concat([Buffer.from('tuGp'), Buffer.alloc(room - 12)])
  return Buffer.concat([bytes.subarray(0, -12), sized(room - 12), body, sized(crc32(body)), bytes.subarray(-12)])
}

function sized(value: number): Buffer {
  const bytes = Buffer.alloc(4)
  bytes.writeUInt32BE(value >>> 0)
  return bytes
}
