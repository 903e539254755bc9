import Papa from 'papaparse'
import type { MetricId } from '../../src/core/profile/figures/metric-definitions.ts'
import { readFile } from 'node:fs/promises'
import { unzipSync } from 'fflate'
import { vectorFile } from '../../src/core/vectors/protocol.ts'
import { driveLive, expect, openApp, openWith, simulate, test, keptRuns, withGesture } from './fixture.ts'

test('from the demo to a saved sheet in three clicks; its requests are saved as HAR', async ({ page, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write'])
  await openApp(page)
  const run = await simulate(page)
  await page.getByRole('link', { name: 'Hand-off' }).click()
  await page.getByRole('button', { name: 'Make the sheet' }).click()
  const saved = async (name: string) => {
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name, exact: true }).click(),
    ])
    return { name: download.suggestedFilename(), text: await readFile(await download.path(), 'utf8') }
  }
  const markdown = await saved('Save as Markdown')
  expect(markdown.name).toBe('saltmarsh-kiln-archive.md')
  expect(markdown.text).toContain('## At recycle')
  expect(markdown.text).toMatch(/Proof: bytes nobody saw \d+\.\d % → \d+\.\d %/)
  await expect(page.getByRole('region', { name: 'At recycle' })).toContainText('Cancel the download of a cell')
  const html = await saved('Save as HTML')
  await page.getByRole('button', { name: 'Copy as Markdown' }).click()
  await expect(page.getByText('The sheet was copied as Markdown.')).toBeVisible()
  expect(await page.evaluate(() => navigator.clipboard.readText())).toBe(markdown.text)
  // As a page of its own it asks for nothing and shows both maps.
  const sheet = await context.newPage()
  const asked: string[] = []
  sheet.on('request', (request) => asked.push(request.url()))
  await sheet.setContent(html.text)
  await expect(sheet.getByRole('img', { name: 'Scroll map with these settings' })).toBeVisible()
  expect(asked).toEqual([])
  await sheet.close()
  const har = JSON.parse((await saved('save the requests')).text) as {
    log: { entries: { response: { bodySize: number } }[] }
  }
  expect(har.log.entries.reduce((sum, { response }) => sum + response.bodySize, 0)).toBe(run.metrics['bytes.received'])
  // A line is left out, another one commented; both are so the next day.
  const recycle = page.getByRole('region', { name: 'At recycle' })
  await page.getByRole('region', { name: 'At start-up' }).getByLabel('in the sheet').first().uncheck()
  await recycle
    .getByLabel(/^Comment on /)
    .first()
    .fill('Ask <Mara> first')
  await page.getByRole('checkbox', { name: 'what was not looked at' }).uncheck()
  await page.getByRole('checkbox', { name: 'maps before and after (HTML)' }).uncheck()
  const edited = await saved('Save as Markdown')
  expect([markdown.text, edited.text].map((text) => text.includes('## What was not looked at'))).toEqual([true, false])
  expect([html.text, (await saved('Save as HTML')).text].map((text) => text.includes('<figure>'))).toEqual([
    true,
    false,
  ])
  expect(edited.text).not.toContain('**Fetch slots: ')
  expect(edited.text).toContain('Comment: Ask &lt;Mara&gt; first')
  expect((await saved('Save as HTML')).text).toContain('Ask &lt;Mara&gt; first')
  expect((await saved('save the budgets as JUnit')).text).toMatch(
    /<testsuite name="Saltmarsh Kiln archive" tests="1" failures="0"[^>]*><testcase classname="first" name="bytes\.wastedShare"\/>/,
  )
  // A line leads to its proof, two runs compared, and to where it is set; the sheet stays.
  await page.getByRole('button', { name: 'See the proof of Let go' }).click()
  await expect(page.getByRole('heading', { name: 'Compare · better, worse, or noise' })).toBeVisible()
  const [plain, now] = (await keptRuns(page)).slice(-2)
  await expect(page.getByLabel('Run A')).toHaveValue(String(plain!.id))
  await expect(page.getByLabel('Run B')).toHaveValue(String(now!.id))
  expect(plain!.metrics['bytes.wastedShare']).toBeGreaterThan(now!.metrics['bytes.wastedShare']!)
  expect(now!.hash).toBe(run.hash)
  await page.getByRole('link', { name: 'Hand-off' }).click()
  await page.getByRole('button', { name: /^Let go: / }).click()
  await expect(page).toHaveURL(/\/loading$/)
})

test('from the demo to saved vectors, files and a zip, and no file has a secret in it', async ({ page }) => {
  const project = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as { loading: object }
  const header = { host: 'archive.example.test', name: 'Authorization', scheme: 'Bearer', secret: 'archive-token' }
  const withHeader = { ...project, loading: { ...project.loading, headers: [header] } }
  await openWith(
    page,
    '/feed',
    withGesture(withHeader, [
      { do: 'wait', ms: 600 },
      { do: 'flick', dpPerS: 3000 },
      { do: 'wait', ms: 1000 },
    ]),
  )
  const secret = 'seeded-secret-4711'
  await page.getByLabel('Secret “archive-token”').fill(secret)
  await page.getByRole('button', { name: 'Keep' }).click()
  await expect(page.getByRole('button', { name: 'forget “archive-token”' })).toBeVisible()
  await driveLive(page)
  await page.getByRole('link', { name: 'Hand-off' }).click()
  const save = async (name: string) => {
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name, exact: true }).click(),
    ])
    return readFile((await download.path())!)
  }
  await page.getByRole('button', { name: 'Make the sheet' }).click()
  const saved: Record<string, Buffer> = {}
  // A browser drops what a page saves after ten files within ten seconds. The others are in the zip, too.
  for (const name of [
    'Save as HTML',
    'save the conformance cases',
    'save: Run log as NDJSON',
    'save: App events',
    'save: Figures as CSV',
    'save: Scroll map as SVG',
    'save the requests',
    'save everything as a zip',
  ])
    saved[name] = await save(name)
  const vectors = vectorFile.parse(JSON.parse(saved['save the conformance cases']!.toString()))
  expect(vectors.cases.length).toBe(60)
  const zip = unzipSync(saved['save everything as a zip']!)
  expect(Object.keys(zip).map((name) => name.replace(/^saltmarsh-kiln-archive/, ''))).toEqual([
    '.tiletug.json',
    '-run-1.har',
    '-run-1.ndjson',
    '-run-1.events.ndjson',
    '-run-1-figures.csv',
    '-run-1-map.svg',
    '.vectors.json',
    '-hand-off.md',
    '-hand-off.html',
    '-budgets.xml',
  ])
  expect(Buffer.from(zip['saltmarsh-kiln-archive.vectors.json']!).equals(saved['save the conformance cases']!)).toBe(
    true,
  )
  // The figures parse back to the same numbers; what was not observed has none.
  const [figures] = await keptRuns(page)
  const { data } = Papa.parse<{ metric: MetricId; value: string }>(saved['save: Figures as CSV']!.toString(), {
    header: true,
  })
  for (const { metric, value } of data)
    if (!/^(ledger|fidelity)/.test(metric))
      expect([metric, value === '' ? null : Number(value)]).toEqual([metric, figures!.metrics[metric]])
  expect(saved['save: Scroll map as SVG']!.toString()).toMatch(/^<svg [^]*<\/svg>/)
  await page.locator('#project-menu').click()
  const everything = unzipSync(await save('Export everything…'))
  expect(Object.keys(everything).length).toBeGreaterThan(1)
  for (const body of [...Object.values(saved), ...Object.values(zip), ...Object.values(everything)])
    expect(Buffer.from(body).includes(secret)).toBe(false)
  await page.getByRole('button', { name: 'read the cases' }).click()
  await expect(page.getByText('Retry-After is waited for.')).toBeVisible()
  // A case is read step by step; what someone's loader made of it is opened, as JSON and as JUnit.
  await page.getByRole('button', { name: 'Retry-After is waited for.' }).click()
  await expect(page.locator('.tt-case-steps li').first()).toContainText('→ {"start":')
  await expect(page.locator('.tt-case-map').first()).toHaveAccessibleName(/^\d+ pictures?: \d+ started/)
  const [first, ...others] = vectors.cases
  const difference = { step: 0, expected: { start: 'x' }, got: null }
  const results = [
    { ...first, ok: false, difference, trouble: null },
    ...others.map((each) => ({ ...each, ok: true, difference: null, trouble: null })),
  ]
  const pick = (name: string, text: string) =>
    page
      .getByLabel('Results of the cases')
      .setInputFiles({ name, mimeType: 'application/json', buffer: Buffer.from(text) })
  await pick('loader.json', JSON.stringify({ project: vectors.project, results }))
  await expect(page.getByText('loader.json: 59 passed, 1 failed')).toBeVisible()
  await expect(page.getByText('step 1: expected {"start":"x"}, got nothing more')).toBeVisible()
  const cases = [first, others[0]].map(
    (each, i) => `<testcase name="${each!.id}">${i ? '<failure message="no answer"/>' : ''}</testcase>`,
  )
  await pick('loader.xml', `<testsuites><testsuite name="all">${cases.join('')}</testsuite></testsuites>`)
  await expect(page.getByText('loader.xml: 1 passed, 1 failed')).toBeVisible()
  await expect(page.getByText('no answer')).toBeVisible()
  await pick('other.json', '{"results":3}')
  await expect(page.getByText('other.json was not opened: /project')).toBeVisible()

  // The log of the run is opened again as a run, with the same figures.
  await page.getByLabel('Project file').setInputFiles({
    name: 'yesterday.ndjson',
    mimeType: 'application/x-ndjson',
    buffer: saved['save: Run log as NDJSON']!,
  })
  await expect(page.getByRole('button', { name: '2 yesterday' })).toBeVisible()
  await expect(page).toHaveURL(/\/profile/)
  const [one, again] = await keptRuns(page)
  expect(again!.metrics).toMatchObject(
    Object.fromEntries(Object.entries(one!.metrics).filter(([id]) => !/^(ledger|fidelity)/.test(id))),
  )
})
