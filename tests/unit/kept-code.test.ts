import { execFile } from 'node:child_process'
import { mkdtemp, readdir, rm, truncate, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { promisify } from 'node:util'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'

const loader = JSON.stringify(resolve('scripts/compiled.cjs'))
let folder: string

/** Loads main.cjs of the folder in a process of its own; what it says, and whose code was refused. */
async function load({ keep }: { keep: boolean }): Promise<string> {
  const source = `const { loadCompiled } = require(${loader})
    const { keepCode, refused } = loadCompiled(${JSON.stringify(folder)}, 'main.cjs')
    process.on('exit', () => {
      console.log(refused.join(' '))
      ${keep ? 'keepCode()' : ''}
    })`
  const { stdout, stderr } = await promisify(execFile)(process.execPath, ['-e', source])
  expect(stderr).toBe('')
  return stdout.trimEnd()
}

describe('The code that is kept of the programs', () => {
  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'tug-code-'))
    // Two that ask for each other, one of Node’s own, and one that is asked for later.
    await writeFile(
      join(folder, 'main.cjs'),
      `exports.name = 'main'
      const { join } = require('node:path')
      const part = require('./part.cjs')
      void Promise.resolve().then(() => require('./later.cjs')).then(({ add }) =>
        console.log(join(part.of(), String(add(2, 3))), require('./part.cjs') === part, __filename.startsWith(__dirname)))`,
    )
    await writeFile(
      join(folder, 'part.cjs'),
      `const main = require('./main.cjs'); exports.of = () => main.name + ' ’ part'`,
    )
    await writeFile(join(folder, 'later.cjs'), `exports.add = (a, b) => a + b`)
  })
  afterAll(() => rm(folder, { recursive: true }))

  it('runs without it, keeps it whole, and runs with it, and with one that is damaged, as before', async () => {
    const said = `main ’ part/5 true true`
    expect(await load({ keep: true })).toBe(said)
    const kept = ['later.cjs', 'later.cjs.code', 'main.cjs', 'main.cjs.code', 'part.cjs', 'part.cjs.code']
    expect((await readdir(folder)).sort()).toEqual(kept)
    expect(await load({ keep: false })).toBe(said)
    await truncate(join(folder, 'main.cjs.code'), 200)
    await writeFile(join(folder, 'part.cjs.code'), 'of another Node')
    await truncate(join(folder, 'later.cjs.code'), 0)
    expect(await load({ keep: false })).toBe(`${said}\nmain.cjs part.cjs later.cjs`)
  })
})
