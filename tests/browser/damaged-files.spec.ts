import { readFile } from 'node:fs/promises'
import { expect, openApp, pickProject, test } from './fixture.ts'

const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as Record<string, unknown>
const text = JSON.stringify(demo, null, 2)
const slot = (options: object) => ({ ...demo, screens: [{ id: 'wall', cells: [{ slots: [options] }] }] })

/** Each kind of damage, and the place that its one message names. */
const damages: [string, unknown, string][] = [
  ['nothing in it', '', 'the text is empty'],
  ['cut off', text.slice(0, 500), 'line 2'],
  ['a comma too many', text.replace('"version": 1,', '"version": 1,,'), 'line 3, column 16'],
  ['single quotes', "{'format': 1}", 'line 1, column 2'],
  ['a list', [], 'the file: found []'],
  [
    'too deep',
    `{"format":"tile-tug/project","a":${'['.repeat(150)}${']'.repeat(150)}}`,
    'nests deeper than 100 levels',
  ],
  ['a prototype', '{"format":"tile-tug/project","__proto__":{}}', '/__proto__'],
  ['another format', { ...demo, format: 'x' }, '/format: found "x"'],
  ['a newer version', { ...demo, version: 99 }, '/version: found 99'],
  ['no name', { ...demo, name: undefined }, '/name: found nothing'],
  ['no screens', { ...demo, screens: [] }, '/screens: found []'],
  ['screens that are none', { ...demo, screens: 'wall' }, '/screens: found "wall"'],
  ['a text for a number', { ...demo, loading: { fetchSlots: 'many' } }, '/loading/fetchSlots: found "many"'],
  [
    'below its range',
    { ...demo, loading: { fetchSlots: 0 } },
    '/loading/fetchSlots: found 0, allowed: a whole number from 1 to 64',
  ],
  ['half a slot', { ...demo, loading: { fetchSlots: 1.5 } }, '/loading/fetchSlots: found 1.5'],
  ['outside a closed set', { ...demo, network: { protocol: 'h3' } }, '/network/protocol: found "h3", allowed: h1 | h2'],
  ['an unknown branch', slot({ size: { type: 'huge' } }), '/screens/0/cells/0/slots/0/size'],
  [
    'a wrong colour',
    slot({ stages: { waiting: { visual: { type: 'colour', colour: 'blue' } } } }),
    '/visual/colour: found "blue"',
  ],
  [
    'an unknown step',
    { ...demo, scripts: [{ name: 'x', steps: [{ do: 'fly' }] }], script: 'x' },
    '/scripts/0/steps/0/do: found "fly"',
  ],
  ['a script that is not there', { ...demo, script: 'x' }, '/script: found "x"'],
  ['two screens of one id', { ...demo, screens: [{ id: 'a' }, { id: 'a' }] }, '/screens/1/id: found "a"'],
]

test('a damaged project file is reported with its place, and the open project stays', async ({ page }) => {
  await openApp(page)
  for (const [, file, place] of damages) {
    await pickProject(page, file)
    const notice = page.getByRole('alert').filter({ hasText: 'picked.tiletug.json was not opened.' })
    await expect(notice).toContainText(place)
    await expect(page.locator('#project-menu')).toHaveText('Saltmarsh Kiln archive')
    await notice.getByRole('button', { name: 'Close' }).click()
    await expect(notice).toBeHidden()
  }
  await expect(page.locator('.tt-slot[data-stage="settled"]').nth(8)).toBeVisible()
})
