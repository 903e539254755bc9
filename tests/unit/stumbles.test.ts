import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createElement } from 'react'
import { renderToStaticMarkup } from 'react-dom/server'
import sharp from 'sharp'
import { expect, test } from 'vitest'
import { Checks } from '../../src/app/profile/Checks.tsx'
import { checksWord, compared } from '../../src/app/runs/figures.ts'
import { eventsAsText, lineOf, listEvents } from '../../src/core/log/event-list.ts'
import { scriptFor, scriptPresets } from '../../src/core/project/presets.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { PictureFolder } from '../../src/server/origin/folder.ts'
import { items, projectOf } from '../support/projects.ts'

const check = (id: string, ok: boolean | null, atMs?: number) => ({ id, ok, evidence: `told of ${id}`, atMs }) as never

test('checks that cannot be decided have no tick, and are counted apart from those that hold and that are broken', () => {
  const checks = [check('held', true), check('open', null), check('broken', false, 1250)]
  expect(checksWord(checks)).toBe('1 check holds, 1 broken, 1 not decided')
  expect(checksWord([check('one', true), check('two', true)])).toBe('All 2 checks hold')
  const html = renderToStaticMarkup(createElement(Checks, { checks, onMoment: () => {} }))
  // Broken first, then open, then held; each with its own mark.
  expect(
    [...html.matchAll(/aria-hidden="true">(.)<\/span> <strong>(\w+)</g)].map(([, mark, id]) => [mark, id]),
  ).toEqual([
    ['!', 'broken'],
    ['–', 'open'],
    ['✓', 'held'],
  ])
  expect(html).toContain('at 1.25 s')
})

test('a ready gesture goes through the list that it is for: to its end however long, and by a jump to its middle', () => {
  const preset = (name: string) => scriptPresets.find((each) => each.name === name)!
  for (const rows of [4, 60, 3000, 100_000]) {
    const list = { rows, endDp: rows * 100, otherScreen: 'other' }
    const [, jump] = scriptFor(preset('Jump'), list).steps
    expect(jump).toEqual({ do: 'jump', row: Math.floor(rows / 2) })
    const [, to] = scriptFor(preset('All the way at a speed'), list).steps
    // At its own speed, but a whole list in 20 s at most.
    expect(to).toEqual({ do: 'to', where: 'end', dpPerS: Math.max(6000, rows * 5) })
    const open = scriptFor(preset('Open an item and go back'), list).steps.find((step) => step.do === 'open')
    expect(open).toMatchObject({ screen: 'other' })
  }
  // Driven, it shows the last row.
  const project = projectOf({ items: items(900, 60) })
  const script = scriptFor(preset('All the way at a speed'), { rows: 900, endDp: 1e6, otherScreen: 'x' })
  const { facts } = profileRun(simulate({ ...project, scripts: [script], script: script.name }).log)
  expect(Math.max(...facts.bindRows)).toBe(899)
})

test('the event list finds any part of a line as it is printed, of several kinds at once, page by page', () => {
  const { log } = simulate(projectOf({ items: items(60), steps: [{ do: 'flick', dpPerS: 4000 }] }))
  const all = listEvents(log, { kinds: [], text: '' }, Infinity)
  expect(all.matching).toBe(log.count)
  const lines = all.events.map(lineOf)
  for (const line of lines.filter((_, i) => i % 97 === 0)) {
    // Its fields as they are printed, with their names and over a comma too.
    const part = line.slice(12).trim()
    for (const text of [part, part.slice(3, 30), part.toUpperCase()]) {
      const found = listEvents(log, { kinds: [], text }, Infinity).events.map(lineOf)
      expect(found).toEqual(lines.filter((each) => each.toLowerCase().includes(text.trim().toLowerCase())))
      expect(found).toContain(line)
    }
  }
  const two = listEvents(log, { kinds: ['bind', 'claim'], text: '' }, Infinity)
  expect(new Set(two.events.map(({ event }) => event))).toEqual(new Set(['bind', 'claim']))
  // Pages joined are the whole, and what is copied is all of it, not the page that is shown.
  const pages = Array.from({ length: Math.ceil(two.matching / 7) }, (_, i) =>
    listEvents(log, { kinds: ['bind', 'claim'], text: '' }, 7, 7 * i),
  )
  expect(pages.flatMap(({ events }) => events)).toEqual(two.events)
  expect(eventsAsText(log, { kinds: ['bind', 'claim'], text: '' }, 1e6).split('\n')).toEqual(two.events.map(lineOf))
  // Between two instants, both of them included.
  const [fromMs, toMs] = [two.events[3]!.t, two.events[9]!.t]
  for (const { t } of listEvents(log, { kinds: [], text: '', fromMs, toMs }, Infinity).events) {
    expect(t).toBeGreaterThanOrEqual(fromMs)
    expect(t).toBeLessThanOrEqual(toMs)
  }
})

test('what is compared has the work of a frame, each figure once', () => {
  const ids = compared.map(({ id }) => id)
  expect(ids).toContain('frames.workP95')
  expect(new Set(ids).size).toBe(ids.length)
})

test('whatever is compared is called by its name, not by its id, and reported as finely as it differs', () => {
  for (const { id, name, explain } of compared) {
    expect([id, /^[a-z]+\.\w+$/.test(name)]).toEqual([id, false])
    expect([id, explain.length > name.length / 2]).toEqual([id, true])
  }
  const words = (id: (typeof compared)[number]['id'], value: number) => {
    const { text, unit } = compared.find((figure) => figure.id === id)!.form(value)
    return `${text} ${unit}`.trim()
  }
  expect(words('frames.workP95', 3.46)).toBe('3.5 ms')
  expect(words('pictures.firstScreenMs', 1347)).toBe('1.35 s')
  expect(words('bytes.wastedShare', 0.3098)).toBe('31.0 %')
  expect(words('bytes.received', 2_092_229)).toBe('2.09 MB')
  expect(words('pictures.wrong', 0)).toBe('0')
})

test('a folder is read with the folders in it, and what cannot be read is named', async () => {
  const folder = await mkdtemp(join(tmpdir(), 'tug-'))
  try {
    const picture = await sharp({ create: { width: 30, height: 20, channels: 3, background: '#208040' } })
      .png()
      .toBuffer()
    await mkdir(join(folder, 'kilns', 'old'), { recursive: true })
    for (const name of ['a.png', 'kilns/b.png', 'kilns/old/c ü.png']) await writeFile(join(folder, name), picture)
    await writeFile(join(folder, 'kilns', 'short.png'), picture.subarray(0, 40))
    await writeFile(join(folder, 'notes.txt'), 'no picture')
    const pictures = new PictureFolder(folder)
    expect(await pictures.open()).toEqual({ count: 3, skipped: ['kilns/short.png'] })
    expect(pictures.page(1)).toMatchObject({
      total: 3,
      next: null,
      items: [
        { id: 'a.png', width: 30, height: 20, bytes: picture.length },
        { id: 'kilns/b.png' },
        { id: 'kilns/old/c ü.png', photo: 'pictures/kilns%2Fold%2Fc%20%C3%BC.png' },
      ],
    })
  } finally {
    await rm(folder, { recursive: true })
  }
})
