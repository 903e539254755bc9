import { readdirSync, readFileSync } from 'node:fs'
import { gzipSync } from 'node:zlib'
import type { Line } from './measure.ts'

export const firstPaintLimit = 200_000

/**
 * The JavaScript that the first paint waits for, compressed: the entry and what it imports at once. Build the app
 * first.
 */
export function firstPaintBytes(): { bytes: number; files: string[] } {
  const entry = /src="\/assets\/([^"]+\.js)"/.exec(readFileSync('dist/index.html', 'utf8'))![1]!
  const known = new Set(readdirSync('dist/assets'))
  const waiting = [entry]
  const needed = new Set<string>()
  for (let file = waiting.pop(); file; file = waiting.pop()) {
    if (needed.has(file)) continue
    needed.add(file)
    const text = readFileSync(`dist/assets/${file}`, 'utf8')
    for (const [, name] of text.matchAll(/(?:from|import)\s*"\.\/([^"]+\.js)"/g))
      if (known.has(name!)) waiting.push(name!)
  }
  const files = [...needed]
  return {
    bytes: files.reduce((sum, file) => sum + gzipSync(readFileSync(`dist/assets/${file}`)).length, 0),
    files: files.map((file) => file.replace(/-[\w-]{8}\.js$/, '')),
  }
}

export function benchSize(): Line[] {
  const { bytes, files } = firstPaintBytes()
  return [
    {
      what: 'JS for the first paint, gzip',
      value: `${Math.round(bytes / 1000)} kB`,
      target: '≤ 200 kB',
      ok: bytes <= firstPaintLimit,
      note: files.join(', '),
    },
  ]
}
