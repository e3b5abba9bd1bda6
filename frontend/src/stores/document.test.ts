import { describe, expect, it } from 'vitest'

import { typedNumber, valueAt, withValue } from './document'

describe('a typed number', () => {
  it('may have a point or a comma', () => {
    expect([
      typedNumber('37,5'),
      typedNumber(' 37.5 '),
      typedNumber('0,75'),
      typedNumber('1e3'),
    ]).toEqual([37.5, 37.5, 0.75, 1000])
  })
  it('stays as typed when it is none, for the server to say so', () => {
    expect([
      typedNumber('1,500,000'),
      typedNumber('5 kW'),
      typedNumber('0x10'),
      typedNumber('-'),
    ]).toEqual(['1,500,000', '5 kW', '0x10', '-'])
  })
  it('is left out when the field is empty', () => {
    expect(typedNumber('  ')).toBeUndefined()
  })
})

describe('a document', () => {
  it('is changed in a copy, and parts that become empty go', () => {
    const before = { tag: 'A', motor: { rated_power_kw: 4 } }
    expect(withValue(before, 'motor.rated_power_kw', undefined)).toEqual({ tag: 'A' })
    expect(withValue(before, 'supply.line_voltage_v', 400)).toEqual({
      ...before,
      supply: { line_voltage_v: 400 },
    })
    expect(before.motor.rated_power_kw).toBe(4)
    expect(valueAt(before, 'supply.line_voltage_v')).toBeUndefined()
  })
})
