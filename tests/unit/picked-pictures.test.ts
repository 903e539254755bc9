import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { database } from '../../src/app/store/database.ts'
import { keepPictures, pickedOf } from '../../src/app/store/picked-pictures.ts'
import { currentStorage } from '../../src/app/store/storage.ts'

const picture = (...bytes: number[]) => new Blob([Uint8Array.from(bytes)], { type: 'image/png' })
const bytesOf = async (blob: Blob | null) => (blob ? [...new Uint8Array(await blob.arrayBuffer())] : null)

beforeEach(() => database.pictures.clear())

describe('pictures that were picked from this machine', () => {
  it('are found by their name, in their own project alone', async () => {
    await keepPictures('p1', [{ name: 'a.png', body: picture(1, 2) }])
    expect(await bytesOf(await pickedOf('p1')('a.png'))).toEqual([1, 2])
    expect(await pickedOf('p1')('b.png')).toBeNull()
    expect(await pickedOf('p2')('a.png')).toBeNull()
  })

  it('take no name from another picture: what was picked before stays, for an undo', async () => {
    const first = await keepPictures('p1', [{ name: 'a.png', body: picture(1, 2) }])
    const second = await keepPictures('p1', [
      { name: 'a.png', body: picture(1, 3) },
      { name: 'b.png', body: picture(4) },
    ])
    const third = await keepPictures('p1', [{ name: 'a.png', body: picture(9, 9, 9) }])
    expect([...first, ...second, ...third]).toEqual([
      ['a.png', 'a.png'],
      ['a.png', 'a.png (2)'],
      ['b.png', 'b.png'],
      ['a.png', 'a.png (3)'],
    ])
    const found = await Promise.all(['a.png', 'a.png (2)', 'a.png (3)'].map(pickedOf('p1')))
    expect(await Promise.all(found.map(bytesOf))).toEqual([
      [1, 2],
      [1, 3],
      [9, 9, 9],
    ])
  })

  it('keep their name when they are picked again, and are there once', async () => {
    await keepPictures('p1', [{ name: 'a.png', body: picture(1, 2) }])
    const again = await keepPictures('p1', [{ name: 'a.png', body: picture(1, 2) }])
    expect([...again]).toEqual([['a.png', 'a.png']])
    expect(await database.pictures.count()).toBe(1)
  })

  it('are kept by their name where the storage cannot be read', async () => {
    const get = vi
      .spyOn(database.pictures, 'get')
      .mockImplementation(() => Promise.reject(new Error('broken')) as never)
    expect([...(await keepPictures('p1', [{ name: 'a.png', body: picture(5) }]))]).toEqual([['a.png', 'a.png']])
    get.mockRestore()
    expect(await bytesOf(await pickedOf('p1')('a.png'))).toEqual([5])
  })

  it('are used while there is no room for them, which is reported', async () => {
    const full = new DOMException('full', 'QuotaExceededError')
    const put = vi.spyOn(database.pictures, 'bulkPut').mockImplementation(() => Promise.reject(full) as never)
    await keepPictures('p1', [{ name: 'large.png', body: picture(7) }])
    expect(currentStorage().waiting).toMatchObject({ full: true, what: ['1 picked pictures'] })
    expect(await database.pictures.count()).toBe(0)
    expect(await bytesOf(await pickedOf('p1')('large.png'))).toEqual([7])
    put.mockRestore()
    await vi.waitFor(() => expect(currentStorage().waiting).toBeNull(), { timeout: 10_000 })
    expect(await database.pictures.count()).toBe(1)
    expect(await bytesOf(await pickedOf('p1')('large.png'))).toEqual([7])
  })
})
