import { spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import type { Line } from './measure.ts'

const rounds = 3
const entryCount = 60_000

/**
 * Three ways to read the entries of a HAR file of 100 MB, each in a process of its own: whole, by our slices, by a
 * streaming package.
 */
const ways = {
  whole: `const t = performance.now(); const { log } = JSON.parse(readFileSync(file, 'utf8')); count = log.entries.length; ms = performance.now() - t`,
  slices: `const { JsonSlices } = await import(process.env.SLICES); const t = performance.now()
    const slices = new JsonSlices(['log.entries'], (_, text) => { JSON.parse(text); count++ })
    for await (const chunk of createReadStream(file, { encoding: 'utf8', highWaterMark: 1 << 20 })) slices.push(chunk)
    slices.finish(); ms = performance.now() - t`,
  package: `const { JSONParser } = await import('@streamparser/json'); const t = performance.now()
    const parser = new JSONParser({ paths: ['$.log.entries.*'], keepStack: false }); parser.onValue = () => { count++ }
    for await (const chunk of createReadStream(file, { highWaterMark: 1 << 20 })) parser.write(chunk)
    ms = performance.now() - t`,
}

export function benchHar(): Line[] {
  const folder = mkdtempSync(join(tmpdir(), 'tug-har-'))
  try {
    const file = join(folder, 'run.har')
    writeFileSync(file, archive())
    const took: Record<string, { ms: number[]; mb: number[] }> = {}
    for (let round = 0; round < rounds; round++)
      for (const [name, code] of Object.entries(ways)) {
        const script = `import { createReadStream, readFileSync } from 'node:fs'
          const file = ${JSON.stringify(file)}; let count = 0, ms = 0
          ${code}
          if (count !== ${entryCount}) throw new Error('read ' + count)
          console.log(JSON.stringify({ ms, mb: process.resourceUsage().maxRSS / 1000 }))`
        const run = spawnSync(process.execPath, ['--import', 'tsx', '--input-type=module', '-e', script], {
          encoding: 'utf8',
          env: { ...process.env, SLICES: resolve('src/core/evidence/json-slices.ts') },
        })
        if (run.status !== 0) throw new Error(run.stderr)
        const { ms, mb } = JSON.parse(run.stdout) as { ms: number; mb: number }
        ;(took[name] ??= { ms: [], mb: [] }).ms.push(ms)
        took[name].mb.push(mb)
      }
    const least = (values: number[]) => Math.min(...values)
    const time = (name: string) => least(took[name]!.ms) / least(took.whole!.ms)
    const memory = (name: string) => least(took[name]!.mb) / least(took.whole!.mb)
    const format = (value: number) => value.toFixed(2)
    return [
      {
        what: 'HAR of 100 MB by our slices: time ÷ whole-file JSON.parse',
        target: '≤ 1 (≤ 3 with a package)',
        value: format(time('slices')),
        ok: time('slices') <= 1,
        note: `a streaming package: ${format(time('package'))}`,
      },
      {
        what: 'the same: peak memory ÷ whole-file JSON.parse',
        target: '≤ 0.5',
        value: format(memory('slices')),
        ok: memory('slices') <= 0.5,
        note: `a streaming package: ${format(memory('package'))}`,
      },
    ]
  } finally {
    rmSync(folder, { recursive: true })
  }
}

/** An archive of 100 MB, with headers and bodies as browsers write them. */
function archive(): string {
  const entries = Array.from({ length: entryCount }, (_, i) =>
    JSON.stringify({
      startedDateTime: new Date(Date.UTC(2026, 0, 1) + i * 7).toISOString(),
      time: 120,
      request: {
        method: 'GET',
        url: `https://archive.example.test/tiles/${i}?width=411`,
        headers: Array.from({ length: 9 }, (_, n) => ({ name: `x-header-${n}`, value: `value "${i}" of ${n}` })),
      },
      response: {
        status: 200,
        bodySize: 24_000 + i,
        content: { size: 24_000 + i, mimeType: 'image/webp', encoding: 'base64', text: 'QUJD'.repeat(230) },
      },
      timings: { blocked: 3, wait: 90, receive: 27 },
    }),
  )
  return `{"log":{"version":"1.2","creator":{"name":"bench","version":"1"},"entries":[${entries.join(',\n')}]}}`
}
