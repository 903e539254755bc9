/**
 * Reads the px of an encoded picture from its header: PNG, JPEG, GIF, WebP and AVIF. Null when the bytes are none of
 * these or end before the size. Orientation is not applied.
 */
export function pictureHeader(bytes: Uint8Array): { width: number; height: number } | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  try {
    if (view.getUint32(0) === 0x89504e47) return { width: view.getUint32(16), height: view.getUint32(20) }
    if (view.getUint16(0) === 0xffd8) return jpeg(view)
    if (view.getUint32(0) === 0x47494638) return { width: view.getUint16(6, true), height: view.getUint16(8, true) }
    if (view.getUint32(0) === 0x52494646 && view.getUint32(8) === 0x57454250) return webp(view)
    return view.getUint32(4) === 0x66747970 ? avif(view) : null
  } catch (error) {
    if (error instanceof RangeError) return null
    throw error
  }
}

/** The first start-of-frame segment (ITU-T T.81, B.2.2). */
function jpeg(view: DataView): { width: number; height: number } | null {
  for (let at = 2; ; at += 2 + view.getUint16(at + 2)) {
    if (view.getUint8(at) !== 0xff) return null
    const marker = view.getUint8(at + 1)
    const isFrame = marker >= 0xc0 && marker <= 0xcf && marker !== 0xc4 && marker !== 0xc8 && marker !== 0xcc
    if (isFrame) return { width: view.getUint16(at + 7), height: view.getUint16(at + 5) }
  }
}

function webp(view: DataView): { width: number; height: number } | null {
  switch (view.getUint32(12)) {
    case 0x56503820:
      return { width: view.getUint16(26, true) & 0x3fff, height: view.getUint16(28, true) & 0x3fff }
    case 0x5650384c: {
      const bits = view.getUint32(21, true)
      return { width: (bits & 0x3fff) + 1, height: ((bits >>> 14) & 0x3fff) + 1 }
    }
    case 0x56503858:
      return { width: (view.getUint32(24, true) & 0xffffff) + 1, height: (view.getUint32(27, true) & 0xffffff) + 1 }
    default:
      return null
  }
}

/** The first image spatial extents property (ISO/IEC 23008-12, `ispe`). */
function avif(view: DataView): { width: number; height: number } | null {
  for (let at = 0; at < view.byteLength - 16; at++)
    if (view.getUint32(at) === 0x69737065) return { width: view.getUint32(at + 8), height: view.getUint32(at + 12) }
  return null
}
