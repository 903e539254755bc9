import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { K, kindFields, kindNames } from '../../src/core/log/event-kinds.ts'
import { decodeLog, encodeLog } from '../../src/core/log/log-encoding.ts'
import { hashLog } from '../../src/core/log/log-hash.ts'
import { RunLog } from '../../src/core/log/run-log.ts'
import { demoLog as log } from '../support/demo-run.ts'

describe('the run log', () => {
  it('comes back from its encoding whatever is in it', () => {
    const int = fc.integer({ min: -2_147_483_648, max: 2_147_483_647 })
    const event = fc.tuple(
      fc.nat(kindNames.length - 1),
      fc.nat(4_294_967_295),
      int,
      int,
      int,
      int,
      fc.maxSafeInteger().map((n) => Math.trunc(n / 4)),
    )
    fc.assert(
      fc.property(fc.array(event, { maxLength: 300 }), (events) => {
        const one = new RunLog(log.head)
        for (const each of events) one.row(...each)
        one.text('a text')
        expect(hashLog(decodeLog(encodeLog(one)))).toBe(hashLog(one))
      }),
      { numRuns: 100 },
    )
  })

  it('of another format or a newer version is refused with a clear message', () => {
    const stored = encodeLog(log)
    expect(() => decodeLog({ ...stored, version: 9 })).toThrow(
      'the run log is of version 9; this version reads up to 2',
    )
    expect(() => decodeLog({ ...stored, format: 'other' as never })).toThrow('this is not a run log (format other)')
  })

  it('gives no field of an event the name of another', () => {
    for (const [number, fields] of kindFields.entries()) {
      const names = ['event', 't', ...fields.map((field) => field.name)]
      expect([kindNames[number], new Set(names).size]).toEqual([kindNames[number], names.length])
      expect(new Set(fields.map((field) => field.column)).size).toBe(fields.length)
    }
    expect(K.frame).toBe(0)
  })
})
