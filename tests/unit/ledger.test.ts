import { describe, expect, it } from 'vitest'
import { ledgerTable } from '../../src/core/profile/figures/ledger-table.ts'
import { demoProfile } from '../support/demo-run.ts'

describe('the ledger', () => {
  it('as a table sums to what was received, to the byte, and its decoding to all of it', () => {
    const table = ledgerTable(demoProfile)
    expect(table.rows.reduce((sum, row) => sum + row.bytes, 0)).toBe(demoProfile.metrics['bytes.received'])
    expect(table.rows.reduce((sum, row) => sum + row.decodeMs, 0)).toBeCloseTo(demoProfile.metrics['decode.ms']!, 6)
    expect(table.rows.reduce((sum, row) => sum + row.requests, 0)).toBe(demoProfile.metrics['requests.total'])
    for (const { largest: dearest } of table.rows)
      expect(dearest.map(({ bytes }) => bytes)).toEqual(dearest.map(({ bytes }) => bytes).sort((a, b) => b - a))
  })
})
